import { FILTER_COUNT } from './excitation'
import { maskedThreshold, specificPartialLoudness } from './specific-loudness'
import { joinEars, RESIDUE } from './two-ears'

/** What is left of a signal beside a noise at the ears: one row where both hear the same, else two. */
export class Beside {
  readonly #ears = [new Float64Array(FILTER_COUNT), new Float64Array(FILTER_COUNT)]

  /**
   * @param signal excitation at each ear; @param noise the same, made smaller by what the ears' difference wins.
   * @param kFactors on K by how tonal the noise is; see `kFactor`.
   * @param out specific loudness that is left, in sone per ERB.
   */
  partial(
    signal: readonly ArrayLike<number>[],
    noise: readonly ArrayLike<number>[],
    kFactors: ArrayLike<number> | null,
    out: Float64Array,
    from = 0,
    to = FILTER_COUNT,
  ): Float64Array {
    const count = Math.max(signal.length, noise.length)
    if (count === 1) return specificPartialLoudness(signal[0], noise[0], kFactors, out, from, to)
    const [left, right] = this.#ears
    specificPartialLoudness(signal[0], noise[0], kFactors, left)
    specificPartialLoudness(signal[1] ?? signal[0], noise[1] ?? noise[0], kFactors, right)
    return joinEars(left, right, out)
  }

  /** Whether a signal is under its masked threshold at both ears in filter `b`. */
  static isHidden(
    signal: readonly ArrayLike<number>[],
    noise: readonly ArrayLike<number>[],
    kFactors: ArrayLike<number>,
    b: number,
  ): boolean {
    const count = Math.max(signal.length, noise.length)
    for (let e = 0; e < count; e++) {
      const s = signal[e] ?? signal[0]
      const n = noise[e] ?? noise[0]
      if (s[b] >= maskedThreshold(n[b], b, kFactors[b])) return false
    }
    return true
  }
}

/** Bands to either side that are taken together when ears are compared. */
const AROUND = 4

/** Power of a sound, and the part of it that differs between the ears, per band. */
export interface EarParts {
  readonly all: Float64Array
  readonly apart: Float64Array
}

const prefix = Array.from({ length: 6 }, () => new Float64Array(FILTER_COUNT + 1))

function add(sum: Float64Array, values: ArrayLike<number>): Float64Array {
  for (let b = 0; b < FILTER_COUNT; b++) sum[b + 1] = sum[b] + values[b]
  return sum
}

/**
 * What listening to the difference of the ears, or to their sum, wins for a signal over listening to one ear: a simple
 * form of equalisation and cancellation (Durlach 1963). A noise that is alike at both ears is cancelled down to
 * {@link RESIDUE}; the signal is heard with what of it is left by that.
 * @param earSignal intensity of the signal at the ear, per band; so `earNoise`.
 * @param out factor by which the noise is made smaller, at least 1.
 */
export function unmask(
  signal: EarParts,
  noise: EarParts,
  earSignal: ArrayLike<number>,
  earNoise: ArrayLike<number>,
  out: Float64Array,
): void {
  const [sAll, sApart, nAll, nApart, sEar, nEar] = prefix
  add(sAll, signal.all)
  add(sApart, signal.apart)
  add(nAll, noise.all)
  add(nApart, noise.apart)
  add(sEar, earSignal)
  add(nEar, earNoise)
  for (let b = 0; b < FILTER_COUNT; b++) {
    const lo = Math.max(0, b - AROUND)
    const hi = Math.min(FILTER_COUNT, b + AROUND + 1)
    const own = sEar[hi] - sEar[lo]
    const beside = nEar[hi] - nEar[lo]
    out[b] = 1
    if (own <= 0 || beside <= 0) continue
    const residue = RESIDUE[b]
    const [sD, nD] = [sApart[hi] - sApart[lo], nApart[hi] - nApart[lo]]
    const sM = sAll[hi] - sAll[lo] - sD
    const nM = nAll[hi] - nAll[lo] - nD
    const byDifference = sD / Math.max(1e-30, nD + residue * nM)
    const bySum = sM / Math.max(1e-30, nM + residue * nD)
    const won = (Math.max(byDifference, bySum) * beside) / own
    if (won > 1) out[b] = Math.min(1 / residue, won)
  }
}
