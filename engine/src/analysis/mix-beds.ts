import type { MixPart } from '@sober-prism/core/findings'
import type { MixBed, MixPlan } from '@sober-prism/core/mix'
import { isCancel } from '../engine-error'
import { sharedChannel } from '../storage/recording-access'

interface KeptBed {
  readonly left: Float32Array
  readonly right: Float32Array
  plan: MixPlan | null
  /** Work that reads and writes it; one after another. */
  pending: Promise<unknown>
}

/** Longer passages are rendered without beds: they would take more memory than they are worth. */
const MOST_BYTES = 96e6

/** Beds of the parts of one mix, in shared memory, for as long as the same audio is measured over the same stretch. */
export class MixBeds {
  #key = ''
  readonly #beds = new Map<number, KeptBed>()

  /**
   * Works on the bed of a part, when it is its turn. `work` gets null where there is no room for a bed.
   * @param key what besides the plan a bed depends on: with another, all beds are let go.
   * @param frames length of the whole mix.
   */
  async use<T>(
    key: string,
    part: MixPart,
    frames: number,
    plan: MixPlan,
    work: (bed: MixBed | null) => Promise<T>,
  ): Promise<T> {
    if (key !== this.#key) this.#beds.clear()
    this.#key = key
    if (8 * frames > MOST_BYTES) return work(null)
    const bed = this.#beds.get(part.fromFrame) ?? newBed(part.heardTo - part.heardFrom)
    if (!bed) return work(null)
    this.#beds.set(part.fromFrame, bed)
    const turn = bed.pending.then(async () => {
      try {
        const result = await work({ left: bed.left, right: bed.right, plan: bed.plan })
        bed.plan = plan
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
    return { left, right, plan: null, pending: Promise.resolve() }
  } catch {
    return null
  }
}
