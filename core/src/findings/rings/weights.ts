/** One feature of the sum that tells rings: its usual value and spread, and what it counts. */
export interface RingWeight {
  readonly name: string
  readonly mean: number
  readonly sd: number
  readonly weight: number
}

/**
 * Fitted by `npm run rings -- DIR… --fit DIR…` on 792 untouched and 1584 ringing sounds (sampled instruments,
 * kits, synthetic voices, mixes); docs/findings.md has the scores on others.
 */
export const RING_INTERCEPT = -4.8939
export const RING_WEIGHTS: readonly RingWeight[] = [
  { name: 'ltas3', mean: 0.2352, sd: 5.2521, weight: 0.5817 },
  { name: 'ltas2z', mean: 0.1305, sd: 1.3664, weight: 0.3809 },
  { name: 'wpow5', mean: 0.1404, sd: 3.0757, weight: -0.244 },
  { name: 'q10z', mean: 0.0751, sd: 1.2667, weight: 0.6658 },
  { name: 'q25z', mean: 0.0859, sd: 1.3487, weight: -0.2635 },
  { name: 'q90', mean: 0.995, sd: 8.4731, weight: -0.3301 },
  { name: 'sd', mean: 0.1122, sd: 2.1164, weight: -0.2003 },
  { name: 'floor3', mean: 0.0669, sd: 3.209, weight: 0.7944 },
  { name: 'mean8t', mean: 0.1132, sd: 2.0786, weight: -2.3447 },
  { name: 'q25t24', mean: 0.1109, sd: 1.8649, weight: 0.9869 },
  { name: 'partsLow', mean: -3.6296, sd: 7.8269, weight: -0.2494 },
  { name: 'partsT', mean: 0.0962, sd: 3.1388, weight: -0.4924 },
  { name: 'partsShare', mean: 0.2299, sd: 0.2928, weight: 0.2358 },
  { name: 'excParts', mean: -1.6787, sd: 2.6913, weight: 0.1515 },
  { name: 'rising', mean: 0.2671, sd: 4.3443, weight: -0.1704 },
  { name: 'softT', mean: 0.0828, sd: 1.8463, weight: 0.4438 },
  { name: 'coarseShare', mean: 0.2246, sd: 0.2827, weight: 0.3683 },
  { name: 'coarseT', mean: 0.1005, sd: 1.4291, weight: 1.3059 },
  { name: 'fineShare', mean: 0.312, sd: 0.2527, weight: 0.1221 },
  { name: 'fifthFine', mean: 0.4779, sd: 0.2417, weight: 0.155 },
  { name: 'excLtas2', mean: -4.0299, sd: 6.061, weight: 0.273 },
  { name: 'excFloor2', mean: -2.4034, sd: 4.0151, weight: 0.2646 },
  { name: 'excQ25t14', mean: -1.3066, sd: 2.3431, weight: 0.0511 },
  { name: 'excWpt14', mean: -1.0292, sd: 1.8153, weight: 0.3235 },
  { name: 'twelfthMean14', mean: 1.173, sd: 1.5729, weight: -0.3489 },
  { name: 'octave', mean: 3.7204, sd: 1.9456, weight: 0.3766 },
]
