import type { AudioSource } from '@sober-prism/core/audio'

/** Frames of a slot: half a stored block. */
export const SLOT_FRAMES = 32768
/** Slots of a recording for each place at which it is played. */
const SLOTS = 8
const EMPTY = -1

/** What a window in shared memory is, as it is sent to whoever fills or plays it. */
export interface SharedWindow {
  readonly buffer: SharedArrayBuffer
  readonly channels: number
  readonly frames: number
}

/** Makes the window of a recording. @param places how many tracks play it. */
export function makeWindow(channels: number, frames: number, places: number): SharedWindow {
  const slots = SLOTS * places
  const buffer = new SharedArrayBuffer(4 * slots * (1 + channels * SLOT_FRAMES))
  new Int32Array(buffer, 0, slots).fill(EMPTY)
  return { buffer, channels, frames }
}

/**
 * A recording of which some seconds lie in shared memory: the feeder fills its slots ahead of the play head, the
 * audio thread reads them.
 */
export class WindowSource implements AudioSource {
  readonly channels: number
  readonly frames: number
  readonly #places: Int32Array
  readonly #slots: readonly Float32Array[][]

  constructor({ buffer, channels, frames }: SharedWindow) {
    this.channels = channels
    this.frames = frames
    const count = buffer.byteLength / (4 * (1 + channels * SLOT_FRAMES))
    this.#places = new Int32Array(buffer, 0, count)
    this.#slots = Array.from({ length: count }, (_, s) =>
      Array.from(
        { length: channels },
        (__, c) =>
          new Float32Array(buffer, 4 * (count + (s * channels + c) * SLOT_FRAMES), SLOT_FRAMES),
      ),
    )
  }

  /** The slot that holds a place of the recording; -1 when none does. */
  #find(place: number): number {
    for (let s = 0; s < this.#places.length; s++) {
      if (Atomics.load(this.#places, s) === place) return s
    }
    return -1
  }

  has(place: number): boolean {
    return this.#find(place) >= 0
  }

  /** True when a stretch can be read without a gap; what lies outside the recording is silence. */
  holds(fromFrame: number, toFrame: number): boolean {
    const from = Math.max(0, fromFrame)
    const to = Math.min(this.frames, toFrame)
    for (let at = Math.floor(from / SLOT_FRAMES); at * SLOT_FRAMES < to; at++) {
      if (!this.has(at)) return false
    }
    return true
  }

  /** Puts samples into a slot that holds none of the places that are still wanted; false when there is none. */
  fill(place: number, samples: readonly Float32Array[], wanted: ReadonlySet<number>): boolean {
    let slot = -1
    for (let s = 0; s < this.#places.length && slot < 0; s++) {
      if (!wanted.has(this.#places[s])) slot = s
    }
    if (slot < 0) return false
    Atomics.store(this.#places, slot, EMPTY)
    this.#slots[slot].forEach((channel, c) => {
      channel.set(samples[c])
    })
    Atomics.store(this.#places, slot, place)
    return true
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
      const place = Math.floor(at / SLOT_FRAMES)
      const from = at - place * SLOT_FRAMES
      const count = Math.min(frames - done, SLOT_FRAMES - from, this.frames - at)
      const slot = this.#find(place)
      if (slot >= 0) {
        const samples = this.#slots[slot][channel]
        for (let i = 0; i < count; i++) out[into + done + i] = samples[from + i]
      } else {
        out.fill(0, into + done, into + done + count)
        complete = false
      }
      done += count
    }
    return complete
  }

  view(): null {
    return null
  }

  prefetch(): undefined {
    return undefined
  }
}
