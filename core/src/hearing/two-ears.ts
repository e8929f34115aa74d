import { interpolateLog } from './ear'
import { ERB_STEP, FILTER_COUNT, FILTER_HZ } from './excitation'

/** What a session is listened to with; over loudspeakers each ear hears both. */
export type Listening = 'speakers' | 'headphones'

/**
 * How much softer the far loudspeaker of a pair at 30 degrees reaches an ear than the near one, `[hz, dB]`: the level
 * difference that a head makes, smoothed over frequency (after Shaw 1974, figure 14; read off, memory).
 */
const FAR_SPEAKER_DB: readonly (readonly [number, number])[] = [
  [100, -0.5],
  [200, -1],
  [500, -3],
  [1000, -5],
  [2000, -6],
  [4000, -8],
  [8000, -10],
  [16000, -12],
]
/** How much later it comes, in seconds: a head of 8.75 cm, 30 degrees (Woodworth 1938). */
const FAR_SPEAKER_SECONDS = 0.00026

/**
 * How much better a tone is heard that stands out of phase at the two ears in a noise that is in phase, `[hz, dB]`
 * (Durlach 1963; Hirsh 1948: 12 to 15 dB at 500 Hz, 3 dB at 4 kHz; memory).
 */
const UNMASKING_DB: readonly (readonly [number, number])[] = [
  [100, 10],
  [200, 12],
  [500, 12],
  [1000, 9],
  [2000, 5],
  [4000, 3],
  [8000, 3],
]

const farGain = FILTER_HZ.map((hz) => 10 ** (interpolateLog(FAR_SPEAKER_DB, hz) / 10))
/** Part of a difference between loudspeakers that is left as a difference between ears. */
const differenceLeft = FILTER_HZ.map((hz, b) => {
  const c = farGain[b]
  const cosine = Math.cos(Math.min(Math.PI / 2, 2 * Math.PI * hz * FAR_SPEAKER_SECONDS))
  const crossed = 2 * Math.sqrt(c) * cosine
  return (1 + c - crossed) / (1 + c + crossed)
})
/** What remains of a noise that is alike at both ears when the ears' difference is listened to. */
export const RESIDUE = FILTER_HZ.map((hz) => 10 ** (-interpolateLog(UNMASKING_DB, hz) / 10))

/** Weight of what comes to the other side in each ear's intensity, per filter. */
export function crosstalk(listening: Listening): Float64Array | null {
  return listening === 'speakers' ? farGain : null
}

/** Part of the sides that stays a difference between the ears, per filter. */
export function differenceAtEars(listening: Listening, b: number): number {
  return listening === 'speakers' ? differenceLeft[b] : 1
}

/** A sound at both ears is this many times as loud as at one (Moore and Glasberg 2007). */
const DIOTIC_RATIO = 1.5
/** Each ear's loudness is compared with the other's as spread over filters, exp(-(B·g)²) (the same, eq. 1). */
const SPREAD_B = 0.08
/** Exponent of the inhibition, chosen by its authors so that both ears give 1.5 times one (the same, eq. 2). */
const INHIBITION = 1.5978
/** Filters in a block in which inhibition is the same: two ERB. */
const BLOCK = Math.round(2 / ERB_STEP)
const BLOCKS = Math.ceil(FILTER_COUNT / BLOCK)
const spread = Float64Array.from({ length: BLOCKS }, (_, d) =>
  Math.exp(-((SPREAD_B * d * BLOCK * ERB_STEP) ** 2)),
)
const [leftSums, rightSums] = [new Float64Array(BLOCKS), new Float64Array(BLOCKS)]

/** What each ear's specific loudness counts in that of both, per block of filters. */
export interface EarFactors {
  readonly left: Float64Array
  readonly right: Float64Array
}

export function emptyFactors(): EarFactors {
  return { left: new Float64Array(BLOCKS), right: new Float64Array(BLOCKS) }
}

/**
 * How much each ear counts: each inhibits the other (Moore and Glasberg 2007). What reaches both alike is as loud as
 * the model for both ears together says.
 * @param left specific loudness as if both ears heard what the left one hears, in sone per ERB; so `right`.
 */
export function earFactors(left: Float64Array, right: Float64Array, out: EarFactors): EarFactors {
  for (let k = 0; k < BLOCKS; k++) {
    let [l, r] = [0, 0]
    const last = Math.min(FILTER_COUNT, (k + 1) * BLOCK)
    for (let b = k * BLOCK; b < last; b++) {
      l += left[b]
      r += right[b]
    }
    leftSums[k] = l
    rightSums[k] = r
  }
  for (let k = 0; k < BLOCKS; k++) {
    let [l, r] = [0, 0]
    for (let j = 0; j < BLOCKS; j++) {
      const weight = spread[Math.abs(k - j)]
      l += weight * leftSums[j]
      r += weight * rightSums[j]
    }
    out.left[k] = 1 / (DIOTIC_RATIO * inhibited(r, l))
    out.right[k] = 1 / (DIOTIC_RATIO * inhibited(l, r))
  }
  return out
}

/** Specific loudness of both ears together; @param out may be one of them. */
export function joinBy(
  factors: EarFactors,
  left: Float64Array,
  right: Float64Array,
  out: Float64Array,
  from = 0,
  to = FILTER_COUNT,
): Float64Array {
  for (let b = from; b < to; b++) {
    const k = (b / BLOCK) | 0
    out[b] = left[b] * factors.left[k] + right[b] * factors.right[k]
  }
  return out
}

const factors = emptyFactors()

/** {@link joinBy} with the factors that belong to these ears. */
export function joinEars(left: Float64Array, right: Float64Array, out: Float64Array): Float64Array {
  return joinBy(earFactors(left, right, factors), left, right, out)
}

/** By how much an ear's loudness is divided for what the other one hears: 2 / (1 + sech(other/own)^γ). */
function inhibited(other: number, own: number): number {
  if (own <= 0) return 2
  const ratio = other / own
  if (ratio > 30) return 2
  return 2 / (1 + (1 / Math.cosh(ratio)) ** INHIBITION)
}
