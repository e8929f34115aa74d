import { type AudioSource, blocksOf, type FrameRange } from '@sober-prism/core/audio'
import { BLOCK_FRAMES, readBlocks } from './recordings'

/** From so many samples on, copying in one go is worth a view. */
const LONG = 512

/** A recording in storage, of which a few blocks at a time are in memory. */
export class BlockSource implements AudioSource {
  readonly channels: number
  readonly frames: number
  readonly #blocks: string
  /** Blocks at hand, by their place. */
  readonly #held = new Map<number, Float32Array[]>()

  constructor(recording: { blocks: string; channels: number; frames: number }) {
    this.#blocks = recording.blocks
    this.channels = recording.channels
    this.frames = recording.frames
  }

  read(channel: number, position: number, out: Float32Array, frames: number, into = 0): boolean {
    let complete = true
    for (let done = 0; done < frames; ) {
      const at = position + done
      if (at < 0 || at >= this.frames) {
        const silent = at < 0 ? Math.min(frames - done, -at) : frames - done
        out.fill(0, into + done, into + done + silent)
        done += silent
        continue
      }
      const index = Math.floor(at / BLOCK_FRAMES)
      const from = at - index * BLOCK_FRAMES
      const count = Math.min(frames - done, BLOCK_FRAMES - from, this.frames - at)
      const block = this.#held.get(index)?.[channel]
      if (block && count >= LONG) {
        out.set(block.subarray(from, from + count), into + done)
      } else if (block) {
        for (let i = 0; i < count; i++) out[into + done + i] = block[from + i]
      } else {
        out.fill(0, into + done, into + done + count)
        complete = false
      }
      done += count
    }
    return complete
  }

  view(channel: number, position: number, frames: number): Float32Array | null {
    if (position < 0) return null
    const index = Math.floor(position / BLOCK_FRAMES)
    const block = this.#held.get(index)?.[channel]
    const from = position - index * BLOCK_FRAMES
    return block && from + frames <= block.length ? block.subarray(from, from + frames) : null
  }

  /** Reads what of a stretch is not at hand, and lets go of what lies outside it. */
  prefetch(ranges: readonly FrameRange[]): Promise<void> | undefined {
    const wanted = blocksOf(ranges, BLOCK_FRAMES, this.frames)
    for (const index of this.#held.keys()) {
      if (!wanted.includes(index)) this.#held.delete(index)
    }
    const missing = wanted.filter((index) => !this.#held.has(index))
    return missing.length > 0 ? this.#load(missing) : undefined
  }

  /** Reads blocks, those that stand in a row in one go. */
  async #load(missing: readonly number[]): Promise<void> {
    const recording = { blocks: this.#blocks, channels: this.channels }
    for (let i = 0, next: number; i < missing.length; i = next) {
      next = i + 1
      while (next < missing.length && missing[next] === missing[next - 1] + 1) next++
      const blocks = await readBlocks(recording, missing[i], missing[next - 1])
      blocks.forEach((block, b) => {
        this.#held.set(missing[i] + b, block)
      })
    }
  }
}
