/** One feature of the sum that tells rings: its usual value and spread, and what it counts. */
export interface RingWeight {
  readonly name: string
  readonly mean: number
  readonly sd: number
  readonly weight: number
}

/**
 * Fitted by `npm run rings -- DIR… --fit DIR…` on 132 untouched and 264 ringing sounds (sampled instruments, kits,
 * synthetic voices, mixes); docs/findings.md has the scores on others.
 */
export const RING_INTERCEPT = -4.9253
export const RING_WEIGHTS: readonly RingWeight[] = [
  { name: 'ltas3', mean: 0.3014, sd: 5.347, weight: 0.122 },
  { name: 'ltas2z', mean: 0.1396, sd: 1.3761, weight: 0.4988 },
  { name: 'wpow5', mean: 0.1616, sd: 3.3651, weight: -0.2245 },
  { name: 'q10z', mean: 0.0872, sd: 1.2533, weight: 0.3629 },
  { name: 'q25z', mean: 0.0995, sd: 1.3387, weight: -0.0914 },
  { name: 'q90', mean: 1.081, sd: 8.6071, weight: -0.6888 },
  { name: 'sd', mean: 0.1079, sd: 2.1087, weight: 0.1149 },
  { name: 'floor3', mean: 0.1222, sd: 3.2724, weight: 0.5509 },
  { name: 'mean8t', mean: 0.1091, sd: 2.0515, weight: -2.8928 },
  { name: 'q25t24', mean: 0.115, sd: 1.857, weight: 1.1701 },
  { name: 'partsLow', mean: -3.4569, sd: 7.8762, weight: -0.3946 },
  { name: 'partsT', mean: 0.1298, sd: 3.3258, weight: -0.5503 },
  { name: 'partsShare', mean: 0.2417, sd: 0.303, weight: 0.2759 },
  { name: 'excParts', mean: -1.6929, sd: 2.8227, weight: -0.3916 },
  { name: 'rising', mean: 0.3127, sd: 4.3925, weight: 0.1973 },
  { name: 'softT', mean: 0.0895, sd: 1.8039, weight: 0.4065 },
  { name: 'coarseShare', mean: 0.2326, sd: 0.2927, weight: 0.4357 },
  { name: 'coarseT', mean: 0.0968, sd: 1.4113, weight: 1.8426 },
  { name: 'fineShare', mean: 0.3176, sd: 0.2649, weight: 0.0622 },
  { name: 'fifthFine', mean: 0.4801, sd: 0.2528, weight: 0.3318 },
  { name: 'excLtas2', mean: -4.0218, sd: 6.1067, weight: 0.1981 },
  { name: 'excFloor2', mean: -2.3136, sd: 3.9083, weight: 0.6056 },
  { name: 'excQ25t14', mean: -1.305, sd: 2.2982, weight: 0.1731 },
  { name: 'excWpt14', mean: -1.0194, sd: 1.8064, weight: 0.756 },
  { name: 'twelfthMean14', mean: 1.1464, sd: 1.5467, weight: -0.1461 },
  { name: 'octave', mean: 3.7906, sd: 1.974, weight: 0.4159 },
]
