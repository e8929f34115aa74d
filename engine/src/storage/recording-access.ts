import { type AudioSource, MemorySource } from '@sober-prism/core/audio'
import type { AudioRef } from '@sober-prism/core/session'
import { EngineError } from '../engine-error'
import { BlockSource } from './block-source'
import { BLOCK_FRAMES, findRecording, readBlocks } from './recordings'

/** How a worker or the audio thread gets at a recording: a plain value that can be sent to it. */
export interface RecordingAccess {
  readonly hash: string
  readonly blocks: string
  readonly channels: number
  readonly frames: number
  readonly peaks: Float32Array
  /** All of it in shared memory, where the session is short enough; null where it is read by blocks. */
  readonly memory: readonly Float32Array[] | null
}

/** Room for recordings that are held in memory as a whole: a short session's. */
const HELD_BYTES = 208e6

/** Makes an empty channel in shared memory. @throws EngineError when there is no room. */
export function sharedChannel(frames: number): Float32Array<SharedArrayBuffer> {
  try {
    return new Float32Array(new SharedArrayBuffer(frames * 4))
  } catch {
    throw new EngineError(
      'Not enough memory for this audio. Close other pages or use fewer tracks.',
    )
  }
}

/** Opens a recording where it is used. */
export function openSource(access: RecordingAccess): AudioSource {
  return access.memory ? new MemorySource(access.memory) : new BlockSource(access)
}

/** The recordings of an open session, as the page hands them out. */
export class RecordingShelf {
  readonly #known = new Map<string, Promise<RecordingAccess | null>>()
  #held = new Set<string>()
  #heldBytes = 0

  /** @param mostBytes recordings that together are not larger are held in memory as a whole. */
  constructor(private readonly mostBytes = HELD_BYTES) {}

  /**
   * Looks recordings up.
   * @returns those that are in this browser, by hash; what is missing is looked for again the next time.
   */
  async find(audios: readonly AudioRef[]): Promise<Map<string, RecordingAccess>> {
    const refs = [...new Map(audios.map((a) => [a.hash, a])).values()]
    const bytes = refs.reduce((sum, a) => sum + 4 * a.frames * a.channels, 0)
    const found = new Map<string, RecordingAccess>()
    for (const audio of refs) {
      const access = await this.#find(audio, bytes <= this.mostBytes)
      if (access) found.set(audio.hash, access)
    }
    return found
  }

  #find(audio: AudioRef, fits: boolean): Promise<RecordingAccess | null> {
    const known = this.#known.get(audio.hash)
    if (known) return known
    const looked = this.#look(audio, fits)
    this.#known.set(audio.hash, looked)
    const forget = () => this.#known.delete(audio.hash)
    looked.then((access) => access ?? forget(), forget)
    return looked
  }

  async #look(audio: AudioRef, fits: boolean): Promise<RecordingAccess | null> {
    const stored = await findRecording(audio)
    if (!stored || stored.channels !== audio.channels || stored.frames !== audio.frames) return null
    const { blocks, channels, frames, peaks } = stored
    const bytes = 4 * channels * frames
    const holds = fits && this.#heldBytes + bytes <= this.mostBytes
    if (holds) {
      this.#held.add(audio.hash)
      this.#heldBytes += bytes
    }
    const memory = holds ? await readWhole({ blocks, channels, frames }) : null
    return { hash: audio.hash, blocks, channels, frames, peaks, memory }
  }

  /** Lets go of recordings that are not among the hashes. */
  keep(hashes: ReadonlySet<string>): void {
    for (const hash of this.#known.keys()) {
      if (hashes.has(hash)) continue
      const known = this.#known.get(hash)
      this.#known.delete(hash)
      if (!this.#held.delete(hash)) continue
      void known?.then((access) => {
        if (access) this.#heldBytes -= 4 * access.channels * access.frames
      })
    }
  }
}

async function readWhole(recording: {
  blocks: string
  channels: number
  frames: number
}): Promise<Float32Array[]> {
  const channels = Array.from({ length: recording.channels }, () => sharedChannel(recording.frames))
  const last = Math.ceil(recording.frames / BLOCK_FRAMES) - 1
  const AT_ONCE = 4
  for (let first = 0; first <= last; first += AT_ONCE) {
    const read = await readBlocks(recording, first, Math.min(last, first + AT_ONCE - 1))
    read.forEach((block, i) => {
      block.forEach((samples, c) => {
        channels[c].set(samples, (first + i) * BLOCK_FRAMES)
      })
    })
  }
  return channels
}
