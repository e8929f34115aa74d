import type { EqBand } from '../session'
import { designBand } from './design'
import { UNCHANGED } from './matched'
import { MOST_QUICK_SECTIONS, QUICK_STRIDE, quickDesign } from './quick-design'
import { runSections, type SvfChannels, SvfSection, type SvfValues, toSvf } from './svf'

/** Time constant of each of the two smoothings in series through which values move. */
const GLIDE_SECONDS = 0.012
const SETTLED = 1e-4
/** Steps over which a filter goes from its moving form to its exact one. */
const REFINE_STEPS = 24
/** Filters that settle together are refined one after another, so that no block has all the work. */
const STAGGER_STEPS = 61

/** What can move in a band. */
interface Values {
  hz: number
  db: number
  q: number
}

const quick = new Float64Array(MOST_QUICK_SECTIONS * QUICK_STRIDE)

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
  readonly #now: EqBand & Values
  /** Values after the first smoothing: the second follows them, so that a move starts at rest. */
  readonly #ahead: Values
  readonly #share: number
  readonly #stagger = (made++ * 17) % STAGGER_STEPS
  #target: EqBand
  #moving = false
  /** Steps until the exact form is reached; above REFINE_STEPS it waits for its turn. */
  #refine = 0
  #exact: SvfValues[] = []
  readonly #one: SvfSection[] = []
  /** An extra section at rest: the extra poles, undone by equal zeros. */
  readonly #unity: SvfValues = toSvf(UNCHANGED)

  /** @param stepFrames length of the control step in which values move. */
  constructor(band: EqBand, rateHz: number, channels: number, stepFrames: number) {
    this.#rateHz = rateHz
    this.#now = { ...band }
    this.#ahead = { hz: band.hz, db: band.db, q: band.q }
    this.#target = band
    this.#share = 1 - Math.exp(-stepFrames / (GLIDE_SECONDS * rateHz))
    this.#sections = designBand(band, rateHz).map((s) => new SvfSection(channels, toSvf(s)))
  }

  get band(): EqBand {
    return this.#target
  }

  set(band: EqBand): void {
    this.#target = band
    if (band.hz !== this.#now.hz || band.db !== this.#now.db || band.q !== this.#now.q) {
      this.#moving = true
    }
  }

  /** Forgets past sound; values stand at once where they were going. */
  reset(): void {
    if (this.#moving || this.#refine > 0) {
      this.#arrive()
      this.#refine = 0
      const design = designBand(this.#target, this.#rateHz)
      for (let s = 0; s < design.length; s++) this.#sections[s].jump(toSvf(design[s]))
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

  /** Filters frames `from` to `to` (one control step at most) of the channels in place. */
  run(channels: SvfChannels, from: number, to: number): void {
    if (this.#moving) this.#runMoving(channels, from, to)
    else if (this.#refine > 0) this.#runRefining(channels, from, to)
    else this.#runActive(channels, from, to)
  }

  #runActive(channels: SvfChannels, from: number, to: number): void {
    for (const section of this.#sections) {
      if (section.idle) continue
      this.#one[0] = section
      runSections(this.#one, channels, from, to)
    }
  }

  /** Main sections glide to the quick design; the extra ones behind each glide back to doing nothing. */
  #runMoving(channels: SvfChannels, from: number, to: number): void {
    this.#advance()
    const count = quickDesign(this.#now, this.#rateHz, quick)
    const stride = this.#sections.length / count
    for (let s = 0; s < count; s++) {
      this.#sections[s * stride].glideToQuick(channels, from, to, quick, s * QUICK_STRIDE)
      if (stride === 1) continue
      const extra = this.#sections[s * stride + 1]
      if (!extra.idle) extra.glide(channels, from, to, this.#unity, 1)
    }
  }

  #runRefining(channels: SvfChannels, from: number, to: number): void {
    if (this.#refine === REFINE_STEPS)
      this.#exact = designBand(this.#target, this.#rateHz).map((s) => toSvf(s))
    if (this.#refine > REFINE_STEPS) {
      // A section that was idle must know the recent past before it begins to act.
      const warm = this.#refine === REFINE_STEPS + 1
      for (const section of this.#sections) {
        if (section.idle && !warm) continue
        this.#one[0] = section
        runSections(this.#one, channels, from, to)
      }
    } else {
      const share = 1 / this.#refine
      for (let s = 0; s < this.#sections.length; s++) {
        this.#sections[s].glide(channels, from, to, this.#exact[s], share)
      }
    }
    this.#refine--
  }

  #advance(): void {
    follow(this.#ahead, this.#target, this.#share)
    follow(this.#now, this.#ahead, this.#share)
    if (!isNear(this.#now, this.#target)) return
    this.#arrive()
    this.#refine = REFINE_STEPS + 1 + this.#stagger
  }

  #arrive(): void {
    const { hz, db, q } = this.#target
    Object.assign(this.#now, { hz, db, q })
    Object.assign(this.#ahead, { hz, db, q })
    this.#moving = false
  }
}

/** Moves values a share of the way, frequency and Q by ratio. */
function follow(values: Values, target: Values, share: number): void {
  values.hz *= (target.hz / values.hz) ** share
  values.q *= (target.q / values.q) ** share
  values.db += (target.db - values.db) * share
}

function isNear(values: Values, target: Values): boolean {
  return (
    Math.abs(target.hz / values.hz - 1) < SETTLED &&
    Math.abs(target.q / values.q - 1) < SETTLED &&
    Math.abs(target.db - values.db) < SETTLED
  )
}

/** True when a running filter of `a` can move to `b`, because both have the same structure. */
export function sameStructure(a: EqBand, b: EqBand): boolean {
  return a.type === b.type && a.channel === b.channel && a.slopeDbPerOct === b.slopeDbPerOct
}
