import type { Biquad } from './biquad'
import { designBand } from './design'
import type { EqBand } from './eq-band'
import { UNCHANGED } from './matched'
import { MOST_QUICK_SECTIONS, QUICK_STRIDE, quickDesign } from './quick-design'
import { biquadStep, type Passes, STEP_NUMBERS, SvfSection, stepOf } from './svf'

/** Time constant of each of the two smoothings in series through which values move. */
const GLIDE_SECONDS = 0.012
const SETTLED = 1e-4
/** Steps over which a filter goes from its moving form to its exact one. */
const REFINE_STEPS = 12
/** Filters that settle together are refined one after another, so that no block has all the work. */
const STAGGER_STEPS = 31

/** What can move in a band, as it moves: frequency and Q by ratio. */
interface Values {
  logHz: number
  db: number
  logQ: number
}

const quick = new Float64Array(MOST_QUICK_SECTIONS * QUICK_STRIDE)
const goal = new Float64Array(STEP_NUMBERS)
/** An extra section at rest: the extra poles, undone by equal zeros. */
const UNITY_STEP = biquadStep(UNCHANGED)

/** Counts filters, to spread their refining. */
let made = 0

/**
 * One band of an equaliser while it runs. Frequency, gain and Q move to new values along smooth curves,
 * during which sections are of the quick form; at rest they glide into the exact one. Type, slope and
 * channel belong to its structure and never change (the equaliser fades to a new band).
 */
export class BandFilter {
  readonly #rateHz: number
  readonly #sections: SvfSection[]
  readonly #values: Values
  /** Values after the first smoothing: the second follows them, so that a move starts at rest. */
  readonly #ahead: Values
  readonly #goal: Values
  /** The band with the present values, for the quick design. */
  readonly #now: EqBand & { hz: number; db: number; q: number }
  readonly #share: number
  readonly #stagger = (made++ * 17) % STAGGER_STEPS
  #target: EqBand
  #moving = false
  /** Steps until the exact form is reached; above REFINE_STEPS it waits for its turn. */
  #refine = 0
  /** Exact sections of the target, designed before they are needed, and their steps once they are. */
  #designed: readonly Biquad[]
  #steps: readonly Float64Array[] | null = null

  /**
   * @param stepFrames length of the control step in which values move.
   * @param sections the band's exact sections, where they were designed ahead.
   */
  constructor(
    band: EqBand,
    rateHz: number,
    channels: number,
    stepFrames: number,
    sections: readonly Biquad[] = designBand(band, rateHz),
  ) {
    this.#rateHz = rateHz
    this.#target = band
    this.#now = { ...band }
    this.#values = valuesOf(band)
    this.#ahead = valuesOf(band)
    this.#goal = valuesOf(band)
    this.#share = 1 - Math.exp(-stepFrames / (GLIDE_SECONDS * rateHz))
    this.#designed = sections
    this.#sections = this.#exact.map((step) => new SvfSection(channels, step))
  }

  get #exact(): readonly Float64Array[] {
    this.#steps ??= this.#designed.map(biquadStep)
    return this.#steps
  }

  get band(): EqBand {
    return this.#target
  }

  set(band: EqBand, sections?: readonly Biquad[]): void {
    const before = this.#target
    this.#target = band
    if (band.hz === before.hz && band.db === before.db && band.q === before.q) return
    this.#designed = sections ?? designBand(band, this.#rateHz)
    this.#steps = null
    Object.assign(this.#goal, valuesOf(band))
    this.#moving = true
  }

  /** Forgets past sound; values stand at once where they were going. */
  reset(): void {
    if (!this.atRest) {
      this.#arrive()
      this.#refine = 0
      this.#exact.forEach((step, i) => {
        this.#sections[i].jump(step)
      })
    }
    for (const section of this.#sections) section.reset()
  }

  /** True when values rest in their exact form; then its active sections can be run by whoever has more. */
  get atRest(): boolean {
    return !this.#moving && this.#refine === 0
  }

  /** Adds the sections that change anything to a list. */
  collect(active: SvfSection[]): void {
    for (const section of this.#sections) if (!section.idle) active.push(section)
  }

  /** Filters one control step at most. */
  run(passes: Passes): void {
    if (this.#moving) this.#runMoving(passes)
    else if (this.#refine > 0) this.#runRefining(passes)
    else this.#runResting(passes, false)
  }

  #runResting(passes: Passes, evenIdle: boolean): void {
    for (let s = 0; s < this.#sections.length; s++) {
      const section = this.#sections[s]
      if (evenIdle || !section.idle) passes.rest(section)
    }
  }

  /** Main sections glide to the quick design; the extra ones behind each glide back to doing nothing. */
  #runMoving(passes: Passes): void {
    this.#advance()
    const count = quickDesign(this.#now, this.#rateHz, quick)
    const stride = this.#sections.length / count
    for (let s = 0; s < count; s++) {
      const at = s * QUICK_STRIDE
      stepOf(goal, quick[at], quick[at + 1], quick[at + 2], quick[at + 3], quick[at + 4])
      passes.glide(this.#sections[s * stride], goal, 1)
      if (stride === 1) continue
      const extra = this.#sections[s * stride + 1]
      if (!extra.idle) passes.glide(extra, UNITY_STEP, 1)
    }
  }

  #runRefining(passes: Passes): void {
    if (this.#refine > REFINE_STEPS) {
      // A section that was idle must know the recent past before it begins to act.
      this.#runResting(passes, this.#refine === REFINE_STEPS + 1)
    } else {
      for (let s = 0; s < this.#sections.length; s++) {
        passes.glide(this.#sections[s], this.#exact[s], 1 / this.#refine)
      }
    }
    this.#refine--
  }

  #advance(): void {
    const { logHz, db, logQ } = this.#values
    follow(this.#ahead, this.#goal, this.#share)
    follow(this.#values, this.#ahead, this.#share)
    const now = this.#now
    if (this.#values.logHz !== logHz) now.hz = Math.exp(this.#values.logHz)
    if (this.#values.logQ !== logQ) now.q = Math.exp(this.#values.logQ)
    if (this.#values.db !== db) now.db = this.#values.db
    // Values may pass the goal on their way elsewhere: only what leads them tells that they stay.
    if (!isNear(this.#ahead, this.#goal) || !isNear(this.#values, this.#goal)) return
    this.#arrive()
    this.#refine = REFINE_STEPS + 1 + this.#stagger
  }

  #arrive(): void {
    const { hz, db, q } = this.#target
    Object.assign(this.#now, { hz, db, q })
    Object.assign(this.#values, this.#goal)
    Object.assign(this.#ahead, this.#goal)
    this.#moving = false
  }
}

function valuesOf({ hz, db, q }: EqBand): Values {
  return { logHz: Math.log(hz), db, logQ: Math.log(q) }
}

function follow(values: Values, target: Values, share: number): void {
  values.logHz += (target.logHz - values.logHz) * share
  values.logQ += (target.logQ - values.logQ) * share
  values.db += (target.db - values.db) * share
}

function isNear(values: Values, target: Values): boolean {
  return (
    Math.abs(target.logHz - values.logHz) < SETTLED &&
    Math.abs(target.logQ - values.logQ) < SETTLED &&
    Math.abs(target.db - values.db) < SETTLED
  )
}

/** True when a running filter of `a` can move to `b`, because both have the same structure. */
export function sameStructure(a: EqBand, b: EqBand): boolean {
  return a.type === b.type && a.channel === b.channel && a.slopeDbPerOct === b.slopeDbPerOct
}
