import type { MixBed, TrackPlan } from '@sober-prism/core/chain'
import type { MixPart } from '@sober-prism/core/findings'
import { isCancel } from '../engine-error'
import { sharedChannel } from '../storage/samples'

interface KeptBed {
  readonly left: Float32Array
  readonly right: Float32Array
  tracks: readonly TrackPlan[]
  /** Work that reads and writes it; one after another. */
  pending: Promise<unknown>
}

/** Beds of the parts of one mix, in shared memory, for as long as the same audio is measured over the same stretch. */
export class MixBeds {
  #key = ''
  readonly #beds = new Map<number, KeptBed>()

  /**
   * Works on the bed of a part, when it is its turn. `work` gets null where there is no room for a bed.
   * @param key what besides tracks' plans a bed depends on: with another, all beds are let go.
   */
  async use<T>(
    key: string,
    part: MixPart,
    tracks: readonly TrackPlan[],
    work: (bed: MixBed | null) => Promise<T>,
  ): Promise<T> {
    if (key !== this.#key) this.#beds.clear()
    this.#key = key
    const bed = this.#beds.get(part.fromFrame) ?? newBed(part.heardTo - part.heardFrom)
    if (!bed) return work(null)
    this.#beds.set(part.fromFrame, bed)
    const turn = bed.pending.then(async () => {
      try {
        const result = await work({ left: bed.left, right: bed.right, tracks: bed.tracks })
        bed.tracks = tracks
        return result
      } catch (error) {
        // What was given up had not begun; what broke off may have left the samples half-way.
        if (!isCancel(error) && this.#beds.get(part.fromFrame) === bed) {
          this.#beds.delete(part.fromFrame)
        }
        throw error
      }
    })
    bed.pending = turn.catch(() => {})
    return turn
  }
}

function newBed(frames: number): KeptBed | null {
  try {
    const [left, right] = [sharedChannel(frames), sharedChannel(frames)]
    return { left, right, tracks: [], pending: Promise.resolve() }
  } catch {
    return null
  }
}
