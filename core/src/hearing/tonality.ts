import { erbBandwidthHz } from '../spectrum'
import { FILTER_COUNT, FILTER_HZ } from './excitation'

/**
 * How tonal a sound is around each auditory filter, 0 for noise to 1 for tones: by the spectral flatness of the bins
 * around it, the geometric over the arithmetic mean of their powers (Johnston 1988). A noise's bins are scattered
 * exponentially, which makes -2.5 dB; partials that stand apart in the window make much less.
 */

/** From here down a sound begins to be tonal, and from there on it is so altogether: flatness in dB. */
const FLATNESS_DB = [-5, -12] as const
/** Bins are taken together up to an ERB below, and up to one above: each at least so many. */
const LEAST_BINS = 6
/** Dynamic range within which bins are compared, in power. */
const FLOOR = 1e-9
/** Skirts of excitation by which a sound a quarter of an ERB below, or above, is heard in a filter. */
const FROM_BELOW = 0.6
const FROM_ABOVE = 0.5

/** Which bins are looked at for a filter. */
interface Stretch {
  readonly filter: number
  readonly from: number
  readonly middle: number
  /** The bin after the last. */
  readonly to: number
}

/** The filters between two frequencies, with the bins of a spectrum that tell about them. */
export interface FlatnessRange {
  readonly stretches: readonly Stretch[]
  readonly first: number
  readonly last: number
}

/** @param binHz width of a bin; @param bins how many there are. */
export function flatnessRange(
  [fromHz, toHz]: readonly [number, number],
  binHz: number,
  bins: number,
): FlatnessRange {
  const stretches: Stretch[] = []
  FILTER_HZ.forEach((hz, filter) => {
    if (hz < fromHz || hz >= toHz) return
    const half = Math.max(erbBandwidthHz(hz), LEAST_BINS * binHz)
    const from = Math.max(1, Math.round((hz - half) / binHz))
    const middle = Math.round(hz / binHz)
    const to = Math.min(bins - 1, Math.round((hz + half) / binHz)) + 1
    if (from < middle && middle < to) stretches.push({ filter, from, middle, to })
  })
  return {
    stretches,
    first: stretches.reduce((least, s) => Math.min(least, s.from), bins),
    last: stretches.reduce((most, s) => Math.max(most, s.to - 1), 0),
  }
}

let sums = new Float64Array(0)
let logs = new Float64Array(0)

/** Tonality of the range's filters. @param power of bins; @param out one value per filter, from `row` on. */
export function takeTonality(
  { stretches, first, last }: FlatnessRange,
  power: ArrayLike<number>,
  out: Float32Array,
  row: number,
): void {
  if (sums.length < last + 2) {
    sums = new Float64Array(last + 2)
    logs = new Float64Array(last + 2)
  }
  let loudest = 0
  for (let k = first; k <= last; k++) loudest = Math.max(loudest, power[k])
  if (loudest <= 0) return
  const least = loudest * FLOOR
  sums[first] = 0
  logs[first] = 0
  for (let k = first; k <= last; k++) {
    const value = power[k] + least
    sums[k + 1] = sums[k] + value
    logs[k + 1] = logs[k] + Math.log(value)
  }
  for (const { filter, from, middle, to } of stretches) {
    // Below and above by themselves, each by its power: the edge of a band of noise is no tone.
    const tone = tonalPower(from, middle) + tonalPower(middle, to)
    out[row + filter] = tone / (sums[to] - sums[from])
  }
}

/** Power of bins `from` to `to`, as far as they are tonal. */
function tonalPower(from: number, to: number): number {
  const count = to - from
  const power = sums[to] - sums[from]
  const flatness = (10 / Math.LN10) * ((logs[to] - logs[from]) / count - Math.log(power / count))
  const [none, all] = FLATNESS_DB
  return power * Math.max(0, Math.min(1, (none - flatness) / (none - all)))
}

const tones = new Float64Array(FILTER_COUNT)
const heard = new Float64Array(FILTER_COUNT)

/**
 * From how tonal a sound is at each place to how tonal is what a filter hears of it: the mean over places around the
 * filter, each counted by its power and by the filter's skirts.
 * @param tonality one value per filter from `row` on, replaced; @param power of bands at the same places.
 */
export function spreadTonality(
  tonality: Float32Array,
  power: (band: number) => number,
  row: number,
): void {
  let [tone, all] = [0, 0]
  for (let b = 0; b < FILTER_COUNT; b++) {
    const here = power(b)
    tone = tone * FROM_BELOW + here * tonality[row + b]
    all = all * FROM_BELOW + here
    tones[b] = tone
    heard[b] = all
  }
  tone = 0
  all = 0
  for (let b = FILTER_COUNT - 1; b >= 0; b--) {
    const here = power(b)
    const own = here * tonality[row + b]
    tone = tone * FROM_ABOVE
    all = all * FROM_ABOVE
    const sum = heard[b] + all
    tonality[row + b] = sum > 0 ? (tones[b] + tone) / sum : 0
    tone += own
    all += here
  }
}
