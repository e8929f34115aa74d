import type { MixPart } from '@sober-prism/core/findings'
import { bedPlan, type MixBed, type MixPlan, type NodePlan } from '@sober-prism/core/mix'
import { isCancel } from '../engine-error'
import { sharedChannel } from '../storage/recording-access'
import type { BedTarget } from '../work/fill-bed'

function samplesOf({ left, right }: KeptBed) {
  return { left, right }
}

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

  #setKey(key: string): void {
    if (key !== this.#key) this.#beds.clear()
    this.#key = key
  }

  /**
   * Makes the beds of all parts, to be filled by tracks; until that is sealed, {@link use} waits. Null where there
   * are beds already, or no room for them.
   */
  fill(key: string, parts: readonly MixPart[], frames: number): BedFilling | null {
    this.#setKey(key)
    if (8 * frames > MOST_BYTES || this.#beds.size > 0) return null
    const made = parts.map((part) => ({
      part,
      bed: newBed(part.heardTo - part.heardFrom),
    }))
    if (made.some(({ bed }) => bed === null)) return null
    const filling = new BedFilling(
      made.map(({ part, bed }) => ({ fromFrame: part.heardFrom, ...samplesOf(bed as KeptBed) })),
    )
    for (const { part, bed } of made as { part: MixPart; bed: KeptBed }[]) {
      this.#beds.set(part.fromFrame, bed)
      bed.pending = filling.done.then((plan) => {
        bed.plan = plan
        if (plan === null && this.#beds.get(part.fromFrame) === bed) {
          // It begins anew, empty.
          bed.left.fill(0)
          bed.right.fill(0)
        }
      })
    }
    return filling
  }

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
    this.#setKey(key)
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

/** Beds that are filled by the tracks while these are measured. */
export class BedFilling {
  readonly target: BedTarget
  readonly #added: NodePlan[] = []
  #end: (plan: MixPlan | null) => void = () => {}
  /** What is in the beds once it is sealed; null where that is not known. */
  readonly done = new Promise<MixPlan | null>((resolve) => {
    this.#end = resolve
  })
  #spoiled = false

  constructor(parts: BedTarget['parts']) {
    const locks = new Int32Array(new SharedArrayBuffer(4 * parts.length))
    this.target = { parts, locks }
  }

  /** A track is in the beds as a whole. */
  add(track: NodePlan): void {
    this.#added.push(track)
  }

  /** Something broke off while it was adding. */
  spoil(): void {
    this.#spoiled = true
  }

  /** Nothing more is added. */
  seal(): void {
    this.#end(this.#spoiled ? null : bedPlan(this.#added))
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
