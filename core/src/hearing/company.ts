import { type EarParts, unmask } from './beside'
import { excitation, FILTER_COUNT } from './excitation'
import { kFactor } from './loudness-law'
import type { TrackPatterns } from './track-patterns'
import { differenceAtEars } from './two-ears'

/** What a track meets of all others at one moment. */
interface Met {
  /** Excitation of the track at each ear. */
  readonly signal: readonly Float32Array[]
  /** Excitation of all others at each ear, made smaller by `won`. */
  readonly noise: readonly Float64Array[]
  /** What the ears' difference wins. */
  readonly won: readonly Float64Array[]
  /** How little they cover by being tonal: as much as noise of the power `asNoise`, where they bring `covers`. */
  readonly kFactors: Float64Array
  readonly covers: Float64Array
  readonly asNoise: Float64Array
}

/** What tracks meet of each other, moment by moment. */
export class Company {
  readonly #two: boolean
  readonly #allMasker: Float64Array[]
  readonly #allIntensity: Float64Array[]
  readonly #all: EarParts = emptyParts()
  readonly #own: EarParts = emptyParts()
  readonly #others: EarParts = emptyParts()
  readonly #earNoise = new Float64Array(FILTER_COUNT)
  readonly #met = new Float64Array(FILTER_COUNT)
  readonly #won: Float64Array[]
  readonly #noise: Float64Array[]
  /** What all bring to a filter; and noise that covers as much. */
  readonly #covers = new Float64Array(FILTER_COUNT)
  readonly #asNoise = new Float64Array(FILTER_COUNT)
  readonly #othersCover = new Float64Array(FILTER_COUNT)
  readonly #othersAsNoise = new Float64Array(FILTER_COUNT)
  readonly #kFactors = new Float64Array(FILTER_COUNT)
  #m = 0

  constructor(private readonly patterns: readonly TrackPatterns[]) {
    this.#two = patterns.some((p) => p.ears.length > 1)
    const ears = () =>
      Array.from({ length: this.#two ? 2 : 1 }, () => new Float64Array(FILTER_COUNT))
    this.#allMasker = ears()
    this.#allIntensity = ears()
    this.#noise = ears()
    this.#won = ears()
  }

  /** Goes to a moment. */
  at(m: number): void {
    this.#m = m
    const row = m * FILTER_COUNT
    for (const sum of [...this.#allMasker, ...this.#allIntensity, this.#all.all, this.#all.apart]) {
      sum.fill(0)
    }
    this.#covers.fill(0)
    this.#asNoise.fill(0)
    for (const pattern of this.patterns) {
      this.#allMasker.forEach((sum, e) => {
        const { masker, intensity } = earOf(pattern, e)
        const whole = this.#allIntensity[e]
        for (let b = 0; b < FILTER_COUNT; b++) {
          sum[b] += masker[row + b]
          whole[b] += intensity[row + b]
        }
      })
      if (this.#two) addParts(pattern, row, this.#all)
      this.#addCover(pattern, row)
    }
  }

  /**
   * Excitation of a track at each ear, and of all others: made smaller by `won`, what the ears' difference wins.
   * They are the same arrays each time.
   */
  beside(t: number): Met {
    const row = this.#m * FILTER_COUNT
    const pattern = this.patterns[t]
    const signal = pattern.ears.map((ear) => ear.excitation.subarray(row, row + FILTER_COUNT))
    if (this.#two) this.#partsBeside(pattern, row)
    this.#noise.forEach((noise, e) => {
      const { masker, intensity } = earOf(pattern, e)
      const [whole, present] = [this.#allMasker[e], this.#allIntensity[e]]
      for (let b = 0; b < FILTER_COUNT; b++) {
        // Rounding may leave a trace of the track itself, which is far below hearing.
        this.#met[b] = Math.max(0, whole[b] - masker[row + b])
        this.#earNoise[b] = Math.max(0, present[b] - intensity[row + b])
      }
      excitation(this.#met, noise)
      if (!this.#two) return
      const own = intensity.subarray(row, row + FILTER_COUNT)
      const won = this.#won[e]
      unmask(this.#own, this.#others, own, this.#earNoise, won)
      for (let b = 0; b < FILTER_COUNT; b++) noise[b] /= won[b]
    })
    this.#factorsBeside(pattern, row)
    return {
      signal,
      noise: this.#noise,
      won: this.#won,
      kFactors: this.#kFactors,
      covers: this.#othersCover,
      asNoise: this.#othersAsNoise,
    }
  }

  #addCover({ ears, tonal }: TrackPatterns, row: number): void {
    for (let b = 0; b < FILTER_COUNT; b++) {
      const covers = meanOfEars(ears, row + b)
      this.#covers[b] += covers
      this.#asNoise[b] += covers * kFactor(tonal[row + b])
    }
  }

  /** Thresholds beside several add up: each of the others counts with its own K. */
  #factorsBeside({ ears, tonal }: TrackPatterns, row: number): void {
    for (let b = 0; b < FILTER_COUNT; b++) {
      const own = meanOfEars(ears, row + b)
      const covers = this.#covers[b] - own
      const asNoise = this.#asNoise[b] - own * kFactor(tonal[row + b])
      // Rounding may leave a trace of the track itself.
      const isNothing = covers <= 1e-6 * this.#covers[b]
      this.#othersCover[b] = isNothing ? 0 : covers
      this.#othersAsNoise[b] = isNothing ? 0 : asNoise
      this.#kFactors[b] = kTogether(this.#othersCover[b], this.#othersAsNoise[b])
    }
  }

  #partsBeside(pattern: TrackPatterns, row: number): void {
    this.#own.all.fill(0)
    this.#own.apart.fill(0)
    addParts(pattern, row, this.#own)
    for (let b = 0; b < FILTER_COUNT; b++) {
      this.#others.all[b] = Math.max(0, this.#all.all[b] - this.#own.all[b])
      this.#others.apart[b] = Math.max(0, this.#all.apart[b] - this.#own.apart[b])
    }
  }
}

/** Factor on K beside several tracks; see {@link Company.beside}. */
export function kTogether(covers: number, asNoise: number): number {
  return covers > 0 ? Math.max(LEAST_K_FACTOR, Math.min(1, asNoise / covers)) : 1
}

const LEAST_K_FACTOR = kFactor(1)

function meanOfEars(ears: TrackPatterns['ears'], at: number): number {
  const [first, second] = ears
  return second ? (first.spread[at] + second.spread[at]) / 2 : first.spread[at]
}

function emptyParts(): EarParts {
  return { all: new Float64Array(FILTER_COUNT), apart: new Float64Array(FILTER_COUNT) }
}

const earOf = ({ ears }: TrackPatterns, e: number) => ears[e] ?? ears[0]

function addParts({ ears, sides, listening }: TrackPatterns, row: number, to: EarParts): void {
  const [left, right = left] = ears
  for (let b = 0; b < FILTER_COUNT; b++) {
    const all = (left.intensity[row + b] + right.intensity[row + b]) / 2
    to.all[b] += all
    if (sides) to.apart[b] += all * sides[row + b] * differenceAtEars(listening, b)
  }
}
