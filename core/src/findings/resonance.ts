import { LevelProfile } from './level-profile'
import { PeakProfile } from './peak-profile'

/** A place that stands out whatever is played. */
export interface Ring {
  readonly hz: number
  readonly q: number
  /** Height over the places beside it, in dB. */
  readonly db: number
  /** How far that is out of their scatter, in standard deviations. */
  readonly score: number
  /** Separate occasions on which it was seen. */
  readonly visits: number
}

/** Range in which mean levels are judged from low spectra, and from high ones. */
const LOW_LEVELS_HZ = [80, 1050] as const
const HIGH_LEVELS_HZ = [450, 12000] as const
const LEVELS_SPLIT_HZ = 700
/** Rings closer than this are one. */
const SAME_OCTAVES = 0.25

/**
 * Finds fixed resonances. Spectra come in frame by frame, low and high ones apart, so that each has the
 * resolution it needs.
 */
export class RingFinder {
  readonly #peaks = new PeakProfile()
  readonly #low = new LevelProfile()
  readonly #high = new LevelProfile()

  /** Takes a spectrum of the low range: bins a few Hz wide. */
  addLow(power: Float64Array, binHz: number, toHz: number): void {
    this.#peaks.add(power, binHz, 80, toHz)
    this.#low.add(power, binHz, ...LOW_LEVELS_HZ)
  }

  /** Takes a spectrum of the high range: frames short enough to follow notes. */
  addHigh(power: Float64Array, binHz: number, fromHz: number): void {
    this.#peaks.add(power, binHz, fromHz, 12000)
    this.#high.add(power, binHz, ...HIGH_LEVELS_HZ)
  }

  /** Rings, those that stand out most first. */
  rings(): Ring[] {
    const rings = this.#peaks.rings()
    const byLevel = [
      ...this.#low.rings().filter((r) => r.hz < LEVELS_SPLIT_HZ),
      ...this.#high.rings().filter((r) => r.hz >= LEVELS_SPLIT_HZ),
    ]
    for (const ring of byLevel) {
      if (rings.every((r) => Math.abs(Math.log2(r.hz / ring.hz)) > SAME_OCTAVES)) rings.push(ring)
    }
    return rings.sort((a, b) => b.db * b.score - a.db * a.score)
  }
}
