import { fromInt16 } from '@sober-prism/core/audio'
import type { AudioRef, Session } from '@sober-prism/core/session'
import { createSHA256 } from 'hash-wasm'
import { EngineError } from '../engine-error'
import { type Database, database, type StoredRecording, storageError } from './database'

/** Frames of one stored block: 1.4 s at 48 kHz. */
export const BLOCK_FRAMES = 65536
/** Frames for which one peak stands. */
export const PEAK_FRAMES = 1024
/** Blocks on their way to the disk at once. */
const MOST_WRITING = 4
/** Samples that are 16-bit numbers are stored as such. */
const FULL_16 = 32768

type Hasher = Awaited<ReturnType<typeof createSHA256>>

/**
 * Stores a recording while it comes in, block by block, and names it by its content: SHA-256 over the digests of
 * the channels' samples as 32-bit floats, in hexadecimal. It is there for others once {@link finish} is done.
 */
export class RecordingWriter {
  readonly #key = `${Date.now()}-${crypto.randomUUID()}`
  readonly #block: Float32Array[]
  #held = 0
  #blocks = 0
  #frames = 0
  readonly #peaks: number[] = []
  #peak = 0
  /** Blocks on their way to the disk: a few at most, so that memory does not fill up. */
  #writing: Promise<unknown>[] = []

  private constructor(
    private readonly db: Database,
    private readonly hashers: readonly Hasher[],
  ) {
    this.#block = hashers.map(() => new Float32Array(BLOCK_FRAMES))
  }

  static async open(channels: number): Promise<RecordingWriter> {
    const db = await database()
    const hashers = await Promise.all(Array.from({ length: channels }, () => createSHA256()))
    for (const hasher of hashers) hasher.init()
    return new RecordingWriter(db, hashers)
  }

  /** Takes the next frames. @throws EngineError when the browser refuses to store them. */
  async add(piece: readonly Float32Array[]): Promise<void> {
    const frames = piece[0].length
    for (const [c, hasher] of this.hashers.entries()) {
      const { buffer, byteOffset, byteLength } = piece[c]
      hasher.update(new Uint8Array(buffer, byteOffset, byteLength))
    }
    this.#addPeaks(piece, frames)
    for (let at = 0; at < frames; ) {
      const count = Math.min(frames - at, BLOCK_FRAMES - this.#held)
      this.#block.forEach((block, c) => {
        block.set(piece[c].subarray(at, at + count), this.#held)
      })
      this.#held += count
      at += count
      if (this.#held === BLOCK_FRAMES) await this.#flush()
    }
    this.#frames += frames
  }

  #addPeaks(piece: readonly Float32Array[], frames: number): void {
    for (let from = 0; from < frames; ) {
      const left = PEAK_FRAMES - ((this.#frames + from) % PEAK_FRAMES)
      const to = Math.min(frames, from + left)
      for (const channel of piece) this.#peak = Math.max(this.#peak, peakOf(channel, from, to))
      if (to - from === left) {
        this.#peaks.push(this.#peak)
        this.#peak = 0
      }
      from = to
    }
  }

  async #flush(): Promise<void> {
    if (this.#held === 0) return
    const value = packed(this.#block.map((b) => b.subarray(0, this.#held)))
    this.#held = 0
    const index = this.#blocks++
    if (this.#writing.length >= MOST_WRITING) await this.#writing.shift()
    const put = this.db.put('blocks', value, [this.#key, index]).catch((error: unknown) => {
      throw storageError(error)
    })
    // It is awaited later; failing first must not count as unhandled meanwhile.
    put.catch(() => {})
    this.#writing.push(put)
  }

  /** Puts the recording down under its name. @throws EngineError; nothing is half-stored then. */
  async finish(): Promise<AudioRef> {
    try {
      await this.#flush()
      await Promise.all(this.#writing)
      if (this.#frames % PEAK_FRAMES !== 0) this.#peaks.push(this.#peak)
      const hash = await this.#hash()
      const audio = { hash, channels: this.hashers.length, frames: this.#frames }
      const { db } = this
      const known = await db.get('recordings', hash)
      if (known) await this.abort()
      const record: StoredRecording = known
        ? { ...known, storedAt: Date.now() }
        : {
            blocks: this.#key,
            channels: audio.channels,
            frames: audio.frames,
            peaks: Float32Array.from(this.#peaks),
            storedAt: Date.now(),
          }
      await db.put('recordings', record, hash)
      return audio
    } catch (error) {
      await this.abort()
      throw storageError(error)
    }
  }

  async #hash(): Promise<string> {
    const whole = await createSHA256()
    whole.init()
    for (const hasher of this.hashers) whole.update(hasher.digest('binary'))
    return whole.digest('hex')
  }

  /** Takes back what was stored so far. */
  async abort(): Promise<void> {
    await Promise.allSettled(this.#writing)
    await this.db.delete('blocks', allBlocks(this.#key)).catch(() => {})
  }
}

/** Stores channels that are in memory. @throws EngineError */
export async function storeRecording(channels: readonly Float32Array[]): Promise<AudioRef> {
  const writer = await RecordingWriter.open(channels.length)
  try {
    for (let at = 0; at < channels[0].length; at += BLOCK_FRAMES) {
      await writer.add(channels.map((c) => c.subarray(at, at + BLOCK_FRAMES)))
    }
  } catch (error) {
    await writer.abort()
    throw error
  }
  return writer.finish()
}

function allBlocks(key: string): IDBKeyRange {
  return IDBKeyRange.bound([key, 0], [key, Number.MAX_SAFE_INTEGER])
}

function peakOf(channel: Float32Array, from: number, to: number): number {
  let peak = 0
  for (let i = from; i < to; i++) {
    const a = Math.abs(channel[i])
    if (a > peak) peak = a
  }
  return peak
}

/** Channels one after the other, as 16-bit numbers where nothing is lost by it. */
function packed(channels: readonly Float32Array[]): Float32Array | Int16Array {
  const frames = channels[0].length
  const words = new Int16Array(frames * channels.length)
  for (const [c, channel] of channels.entries()) {
    for (let i = 0, at = c * frames; i < frames; i++, at++) {
      const word = channel[i] * FULL_16
      words[at] = word
      // Zero below zero is not among them, and would give another name.
      if (words[at] !== word || (word === 0 && 1 / word < 0)) return joined(channels)
    }
  }
  return words
}

function joined(channels: readonly Float32Array[]): Float32Array {
  const frames = channels[0].length
  const out = new Float32Array(frames * channels.length)
  channels.forEach((channel, c) => {
    out.set(channel, c * frames)
  })
  return out
}

/** The channels of a stored block. */
function unpacked(block: Float32Array | Int16Array, channels: number): Float32Array[] {
  const frames = block.length / channels
  if (block instanceof Float32Array) {
    return Array.from({ length: channels }, (_, c) => block.subarray(c * frames, (c + 1) * frames))
  }
  return Array.from({ length: channels }, (_, c) => {
    const out = new Float32Array(frames)
    fromInt16(block, c * frames, out)
    return out
  })
}

/**
 * Blocks `first` to `last` of a recording, each with its channels. @throws EngineError when they are gone.
 */
export async function readBlocks(
  { blocks, channels }: Pick<StoredRecording, 'blocks' | 'channels'>,
  first: number,
  last: number,
): Promise<Float32Array[][]> {
  const db = await database()
  const range = IDBKeyRange.bound([blocks, first], [blocks, last])
  const found = await db.getAll('blocks', range)
  if (found.length !== last - first + 1) throw missing()
  return found.map((block) => unpacked(block, channels))
}

export function missing(): EngineError {
  return new EngineError('Its audio is not in this browser. Import the file again.')
}

/** What is stored of a recording; null when it is not in this browser. */
export async function findRecording(audio: AudioRef): Promise<StoredRecording | null> {
  const db = await database()
  const found = await db.get('recordings', audio.hash)
  if (found) return found
  const last = await db.getKey('samples', [audio.hash, audio.channels - 1])
  return last === undefined ? null : convertOld(db, audio)
}

/** Cuts what versions 1 and 2 stored as whole channels into blocks. One page does it, others wait. */
async function convertOld(db: Database, audio: AudioRef): Promise<StoredRecording | null> {
  const convert = async () => {
    const channels: Float32Array[] = []
    for (let index = 0; index < audio.channels; index++) {
      const buffer = await db.get('samples', [audio.hash, index])
      if (buffer) channels.push(new Float32Array(buffer))
    }
    if (channels.length !== audio.channels) return
    const { hash } = await storeRecording(channels)
    if (hash !== audio.hash) throw new EngineError('Its audio in this browser is damaged.')
    for (let index = 0; index < audio.channels; index++) {
      await db.delete('samples', [audio.hash, index])
    }
    await db.delete('stamps', audio.hash)
  }
  if (typeof navigator !== 'undefined' && navigator.locks) {
    await navigator.locks.request(`sober-prism recording ${audio.hash}`, convert)
  } else await convert()
  return (await db.get('recordings', audio.hash)) ?? null
}

/** What the recordings of a session take in storage, each counted once: samples as they are kept. */
export async function recordedBytes(session: Session): Promise<number> {
  const db = await database()
  const audios = new Map(
    [...session.tracks, ...session.references].map(({ audio }) => [audio.hash, audio]),
  )
  let bytes = 0
  for (const { hash, channels, frames } of audios.values()) {
    const record = await db.get('recordings', hash)
    const block = record && (await db.get('blocks', [record.blocks, 0]))
    bytes += (block?.BYTES_PER_ELEMENT ?? 0) * channels * frames
  }
  return bytes
}

/** Removes recordings that none of the hashes names and that were stored before a moment, and blocks left over. */
export async function tidyRecordings(used: ReadonlySet<string>, before: number): Promise<void> {
  const db = await database()
  const kept = new Set<string>()
  for (const hash of await db.getAllKeys('recordings')) {
    const record = await db.get('recordings', hash)
    if (!record) continue
    if (used.has(hash) || record.storedAt > before) {
      kept.add(record.blocks)
      continue
    }
    await db.delete('recordings', hash)
    await db.delete('blocks', allBlocks(record.blocks))
  }
  for (const key of await blockKeys(db)) {
    // The key begins with the time at which its recording came in.
    if (!kept.has(key) && Number.parseInt(key, 10) < before)
      await db.delete('blocks', allBlocks(key))
  }
  for (const [hash, index] of await db.getAllKeys('samples')) {
    if (used.has(hash) || ((await db.get('stamps', hash)) ?? 0) > before) continue
    await db.delete('samples', [hash, index])
    await db.delete('stamps', hash)
  }
}

/** The first parts of all block keys: each recording has a block 0. */
async function blockKeys(db: Database): Promise<string[]> {
  const keys: string[] = []
  let cursor = await db.transaction('blocks').store.openKeyCursor()
  while (cursor) {
    const [key] = cursor.key
    keys.push(key)
    cursor = await cursor.continue([key, Number.MAX_SAFE_INTEGER])
  }
  return keys
}
