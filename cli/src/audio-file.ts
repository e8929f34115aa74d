import { type FileHandle, open } from 'node:fs/promises'
import { resolve } from 'node:path'
import {
  AudioError,
  type AudioLayout,
  type AudioSource,
  audioFileKind,
  audioLayout,
  type ByteSource,
  blocksOf,
  bytesPerSample,
  type Clip,
  decodePcmInto,
  type FrameRange,
  MemorySource,
  takeStepsFrom,
} from '@sober-prism/core/audio'
import { FileError } from './cli-error'
import { decodeClip } from './files'
import { reasonOf } from './system-reason'

/** Frames that are decoded at one go. */
const PIECE_FRAMES = 65536
/** Bytes by which a file's kind is told, and that are read ahead of a header. */
const HEAD_BYTES = 65536

/** An audio file that is read by windows. To be closed. */
export interface AudioFile {
  readonly sampleRateHz: number
  readonly channels: number
  readonly frames: number
  readonly source: AudioSource
  close(): Promise<void>
}

/** Opens WAV and AIFF by windows; FLAC is decoded as a whole. @throws FileError */
export async function openAudio(cwd: string, file: string): Promise<AudioFile> {
  const bytes = await FileBytes.open(cwd, file)
  try {
    return await openBytes(bytes, file)
  } catch (error) {
    await bytes.close()
    if (error instanceof AudioError) throw new FileError(file, error.message)
    throw error
  }
}

/** {@link openAudio} for bytes that may be a part of a file. They are closed with it. */
export async function openBytes(bytes: Bytes, file: string): Promise<AudioFile> {
  if (bytes.length === 0) throw new AudioError('The file is empty.')
  const kind = audioFileKind(await bytes.read(0, 64))
  if (kind !== 'wav' && kind !== 'aiff') {
    const clip = await decodeClip(
      (await bytes.read(0, bytes.length)) as Uint8Array<ArrayBuffer>,
      file,
    )
    await bytes.close()
    return fromClip(clip)
  }
  const layout = await takeStepsFrom(bytes, audioLayout(kind, bytes.length))
  const { sampleRateHz, channels, frames } = layout
  const source = new FileSource(bytes, layout, file)
  return { sampleRateHz, channels, frames, source, close: () => bytes.close() }
}

/** A clip in memory as an opened file. */
export function fromClip({ sampleRateHz, channels, frames }: Clip): AudioFile {
  const source = new MemorySource(channels)
  return { sampleRateHz, channels: channels.length, frames, source, close: async () => {} }
}

/** Bytes that are closed when they are not needed any more. */
export interface Bytes extends ByteSource {
  /** Reads as many as `out` holds, so that no new array is needed. */
  readInto?(at: number, out: Uint8Array): Promise<void>
  close(): Promise<void>
}

/** A file's bytes by ranges. */
export class FileBytes implements Bytes {
  #head: Uint8Array<ArrayBuffer> | null = null

  private constructor(
    private readonly handle: FileHandle,
    readonly length: number,
    private readonly file: string,
  ) {}

  /** @throws FileError with a plain reason. */
  static async open(cwd: string, file: string): Promise<FileBytes> {
    try {
      const handle = await open(resolve(cwd, file))
      const info = await handle.stat()
      if (!info.isFile()) {
        await handle.close()
        throw new FileError(file, info.isDirectory() ? 'is a folder' : 'is not a file')
      }
      return new FileBytes(handle, info.size, file)
    } catch (error) {
      if (error instanceof FileError) throw error
      throw new FileError(file, reasonOf(error))
    }
  }

  async read(at: number, size: number): Promise<Uint8Array> {
    if (at + size <= HEAD_BYTES) {
      this.#head ??= await this.#read(0, HEAD_BYTES)
      return this.#head.subarray(at, at + size)
    }
    return this.#read(at, size)
  }

  async #read(at: number, size: number): Promise<Uint8Array<ArrayBuffer>> {
    const wanted = Math.max(0, Math.min(size, this.length - at))
    const bytes = new Uint8Array(wanted)
    await this.readInto(at, bytes)
    return bytes
  }

  async readInto(at: number, out: Uint8Array): Promise<void> {
    for (let done = 0; done < out.length; ) {
      const { bytesRead } = await this.handle
        .read(out, done, out.length - done, at + done)
        .catch((error: unknown) => {
          throw new FileError(this.file, reasonOf(error))
        })
      if (bytesRead === 0) throw new FileError(this.file, 'became shorter while it was read')
      done += bytesRead
    }
  }

  async close(): Promise<void> {
    await this.handle.close()
  }
}

/** The samples of a file, of which the pieces that were asked for last are decoded. */
class FileSource implements AudioSource {
  readonly channels: number
  readonly frames: number
  readonly #pieces = new Map<number, Float32Array[]>()
  /** Arrays of pieces that are not needed any more, and of bytes, to be used again. */
  readonly #spare: Float32Array[][] = []
  #raw = new Uint8Array(0)

  constructor(
    private readonly bytes: Bytes,
    private readonly layout: AudioLayout,
    private readonly file: string,
  ) {
    this.channels = layout.channels
    this.frames = layout.frames
  }

  read(channel: number, position: number, out: Float32Array, frames: number, into = 0): boolean {
    let complete = true
    for (let done = 0; done < frames; ) {
      const at = position + done
      const index = Math.floor(at / PIECE_FRAMES)
      const from = at - index * PIECE_FRAMES
      const count = Math.min(frames - done, PIECE_FRAMES - from)
      const piece = this.#pieces.get(index)?.[channel]
      const inside = piece ? Math.max(0, Math.min(count, piece.length - from)) : 0
      if (piece) out.set(piece.subarray(from, from + inside), into + done)
      out.fill(0, into + done + inside, into + done + count)
      complete &&= piece !== undefined || at < 0 || at >= this.frames
      done += count
    }
    return complete
  }

  view(channel: number, position: number, frames: number): Float32Array | null {
    const index = Math.floor(position / PIECE_FRAMES)
    const piece = this.#pieces.get(index)?.[channel]
    const from = position - index * PIECE_FRAMES
    return piece && from + frames <= piece.length ? piece.subarray(from, from + frames) : null
  }

  prefetch(ranges: readonly FrameRange[]): Promise<void> | undefined {
    const wanted = blocksOf(ranges, PIECE_FRAMES, this.frames)
    for (const [index, piece] of this.#pieces) {
      if (wanted.includes(index)) continue
      this.#pieces.delete(index)
      if (piece[0].length === PIECE_FRAMES) this.#spare.push(piece)
    }
    const missing = wanted.filter((index) => !this.#pieces.has(index))
    return missing.length > 0 ? this.#load(missing) : undefined
  }

  async #load(indices: readonly number[]): Promise<void> {
    const { sample, endian, channels, dataAt, frames } = this.layout
    const frameBytes = channels * bytesPerSample(sample)
    for (const index of indices) {
      const at = index * PIECE_FRAMES
      const count = Math.min(PIECE_FRAMES, frames - at)
      const data = await this.#bytes(dataAt + at * frameBytes, count * frameBytes)
      const arrays = this.#spare.pop() ?? this.#newArrays()
      const piece = count < PIECE_FRAMES ? arrays.map((a) => a.subarray(0, count)) : arrays
      try {
        decodePcmInto(data, sample, endian, piece, count)
      } catch (error) {
        if (error instanceof AudioError) throw new FileError(this.file, error.message)
        throw error
      }
      this.#pieces.set(index, piece)
    }
  }

  #newArrays(): Float32Array[] {
    return Array.from({ length: this.channels }, () => new Float32Array(PIECE_FRAMES))
  }

  async #bytes(at: number, size: number): Promise<Uint8Array> {
    if (!this.bytes.readInto) return this.bytes.read(at, size)
    if (this.#raw.length < size) this.#raw = new Uint8Array(size)
    const bytes = this.#raw.subarray(0, size)
    await this.bytes.readInto(at, bytes)
    return bytes
  }
}

/** The sound of a file from one frame to another, piece by piece. The arrays are reused. */
export async function* piecesOf(
  { source }: AudioFile,
  fromFrame: number,
  toFrame: number,
): AsyncGenerator<readonly Float32Array[]> {
  for (let at = fromFrame; at < toFrame; ) {
    // Up to the end of what is decoded at one go, so that it need not be copied.
    const end = Math.min(toFrame, (Math.floor(at / PIECE_FRAMES) + 1) * PIECE_FRAMES)
    const frames = end - at
    await source.prefetch([{ fromFrame: at, toFrame: end }])
    yield Array.from({ length: source.channels }, (_, c) => {
      const view = source.view(c, at, frames)
      if (view) return view
      const copy = new Float32Array(frames)
      source.read(c, at, copy, frames)
      return copy
    })
    at = end
  }
}
