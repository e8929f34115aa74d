import type { EqBand } from '../session'
import { designBand } from './design'
import { SvfSection, toSvf } from './svf'

const GLIDE_SECONDS = 0.02
const SETTLED = 1e-4

/**
 * One band of an equaliser while it runs. Frequency, gain and Q move to new values along smooth curves;
 * type, slope and channel belong to its structure and never change (the equaliser fades to a new band).
 */
export class BandFilter {
  readonly #rateHz: number
  readonly #sections: SvfSection[]
  readonly #now: EqBand & { hz: number; db: number; q: number }
  readonly #share: number
  #target: EqBand
  #moving = false

  /** @param stepFrames length of the control step in which values move. */
  constructor(band: EqBand, rateHz: number, channels: number, stepFrames: number) {
    this.#rateHz = rateHz
    this.#now = { ...band }
    this.#target = band
    this.#share = 1 - Math.exp(-stepFrames / (GLIDE_SECONDS * rateHz))
    this.#sections = designBand(band, rateHz).map((s) => new SvfSection(channels, toSvf(s)))
  }

  get band(): EqBand {
    return this.#target
  }

  set(band: EqBand): void {
    this.#target = band
    this.#moving = band.hz !== this.#now.hz || band.db !== this.#now.db || band.q !== this.#now.q
  }

  reset(): void {
    for (const section of this.#sections) section.reset()
  }

  /** Filters frames `from` to `to` (one control step at most) of the channels in place. */
  run(channels: readonly (Float32Array | Float64Array)[], from: number, to: number): void {
    if (!this.#moving) {
      for (const section of this.#sections) {
        for (let c = 0; c < channels.length; c++) section.run(channels[c], from, to, c)
      }
      return
    }
    this.#advance()
    const design = designBand(this.#now, this.#rateHz)
    for (let s = 0; s < design.length; s++) {
      this.#sections[s].glide(channels, from, to, toSvf(design[s]))
    }
  }

  #advance(): void {
    const now = this.#now
    const target = this.#target
    const share = this.#share
    now.hz *= (target.hz / now.hz) ** share
    now.q *= (target.q / now.q) ** share
    now.db += (target.db - now.db) * share
    const settled =
      Math.abs(target.hz / now.hz - 1) < SETTLED &&
      Math.abs(target.q / now.q - 1) < SETTLED &&
      Math.abs(target.db - now.db) < SETTLED
    if (settled) {
      now.hz = target.hz
      now.q = target.q
      now.db = target.db
      this.#moving = false
    }
  }
}

/** True when a running filter of `a` can move to `b`, because both have the same structure. */
export function sameStructure(a: EqBand, b: EqBand): boolean {
  return a.type === b.type && a.channel === b.channel && a.slopeDbPerOct === b.slopeDbPerOct
}
