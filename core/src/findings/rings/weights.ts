/** One feature of the sum that tells rings: its usual value and spread, and what it counts. */
export interface RingWeight {
  readonly name: string
  readonly mean: number
  readonly sd: number
  readonly weight: number
}

/**
 * Fitted by `npm run rings -- DIR… --fit DIR…` on 330 untouched and 660 ringing sounds (sampled instruments, kits,
 * synthetic voices, mixes); docs/findings.md has the scores on others.
 */
export const RING_INTERCEPT = -4.821
export const RING_WEIGHTS: readonly RingWeight[] = [
  { name: 'ltas3', mean: 0.2432, sd: 5.2777, weight: 0.3387 },
  { name: 'ltas2z', mean: 0.1297, sd: 1.3524, weight: 0.4251 },
  { name: 'wpow5', mean: 0.1368, sd: 3.0889, weight: -0.1608 },
  { name: 'q10z', mean: 0.0757, sd: 1.2719, weight: 0.301 },
  { name: 'q25z', mean: 0.087, sd: 1.3532, weight: -0.0234 },
  { name: 'q90', mean: 0.9982, sd: 8.4659, weight: -0.4049 },
  { name: 'sd', mean: 0.1082, sd: 2.108, weight: -0.2874 },
  { name: 'floor3', mean: 0.0645, sd: 3.2418, weight: 0.7138 },
  { name: 'mean8t', mean: 0.1133, sd: 2.0599, weight: -2.6209 },
  { name: 'q25t24', mean: 0.1109, sd: 1.8489, weight: 1.0932 },
  { name: 'partsLow', mean: -3.5049, sd: 7.7672, weight: -0.1165 },
  { name: 'partsT', mean: 0.0856, sd: 3.2027, weight: -0.573 },
  { name: 'partsShare', mean: 0.2299, sd: 0.294, weight: 0.3586 },
  { name: 'excParts', mean: -1.7178, sd: 2.7272, weight: -0.1245 },
  { name: 'rising', mean: 0.2731, sd: 4.3687, weight: 0.0575 },
  { name: 'softT', mean: 0.0804, sd: 1.8266, weight: 0.6225 },
  { name: 'coarseShare', mean: 0.2243, sd: 0.2826, weight: 0.3471 },
  { name: 'coarseT', mean: 0.0996, sd: 1.4186, weight: 1.2951 },
  { name: 'fineShare', mean: 0.3137, sd: 0.2571, weight: 0.0244 },
  { name: 'fifthFine', mean: 0.4812, sd: 0.2449, weight: 0.1311 },
  { name: 'excLtas2', mean: -4.0312, sd: 6.15, weight: 0.4739 },
  { name: 'excFloor2', mean: -2.4521, sd: 4.0992, weight: 0.419 },
  { name: 'excQ25t14', mean: -1.2931, sd: 2.3126, weight: -0.0059 },
  { name: 'excWpt14', mean: -1.0371, sd: 1.8007, weight: 0.4241 },
  { name: 'twelfthMean14', mean: 1.168, sd: 1.5636, weight: -0.3965 },
  { name: 'octave', mean: 3.7297, sd: 1.9475, weight: 0.3316 },
]
