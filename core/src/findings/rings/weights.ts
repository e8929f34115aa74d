import type { BellReading, RingWeight } from './ring-model'

/**
 * Fitted by `npm run rings -- DIR… --fit DIR…` on 1208 untouched and 2416 ringing sounds (sampled instruments,
 * kits, synthetic voices, mixes, parts of songs); docs/findings.md has the scores on others.
 */
export const RING_INTERCEPT = -4.584
export const RING_WEIGHTS: readonly RingWeight[] = [
  { name: 'ltas3', mean: 0.2473, sd: 5.3961, weight: 0.1468 },
  { name: 'ltas2z', mean: 0.1226, sd: 1.387, weight: 0.5386 },
  { name: 'wpow5', mean: 0.1292, sd: 3.4859, weight: 0.0556 },
  { name: 'q10z', mean: 0.0718, sd: 1.3124, weight: 0.4937 },
  { name: 'q25z', mean: 0.0792, sd: 1.3931, weight: -0.2285 },
  { name: 'q90', mean: 0.9119, sd: 9.0276, weight: -0.6162 },
  { name: 'sd', mean: 0.098, sd: 2.3543, weight: 0.1803 },
  { name: 'floor3', mean: 0.0571, sd: 3.6176, weight: 0.6462 },
  { name: 'mean8t', mean: 0.1061, sd: 1.9929, weight: -2.0748 },
  { name: 'q25t24', mean: 0.1101, sd: 1.8338, weight: 0.8116 },
  { name: 'partsLow', mean: -3.4543, sd: 8.4254, weight: -0.0627 },
  { name: 'partsT', mean: 0.0694, sd: 3.8042, weight: -0.5451 },
  { name: 'partsShare', mean: 0.2384, sd: 0.308, weight: 0.3076 },
  { name: 'excParts', mean: -1.9543, sd: 3.1339, weight: -0.2552 },
  { name: 'rising', mean: 0.2717, sd: 4.7935, weight: -0.0063 },
  { name: 'softT', mean: 0.0825, sd: 1.792, weight: 0.3475 },
  { name: 'coarseShare', mean: 0.2375, sd: 0.2932, weight: 0.3026 },
  { name: 'coarseT', mean: 0.096, sd: 1.3839, weight: 1.2881 },
  { name: 'fineShare', mean: 0.3157, sd: 0.2629, weight: 0.0986 },
  { name: 'fifthFine', mean: 0.4945, sd: 0.2526, weight: 0.135 },
  { name: 'peakMean', mean: -0.7925, sd: 4.8472, weight: 0.3076 },
  { name: 'peakShare', mean: 0.4185, sd: 0.1865, weight: 0.362 },
  { name: 'peakLow', mean: -6.1865, sd: 6.9405, weight: -0.7096 },
  { name: 'peakHigh', mean: 4.8365, sd: 8.2652, weight: -0.4552 },
  { name: 'peakSteadiness', mean: -0.5262, sd: 2.2014, weight: 0.7415 },
  { name: 'peakLeastPart', mean: -4.4558, sd: 6.7349, weight: -0.2743 },
  { name: 'peakOverBeside', mean: -5.4285, sd: 6.6811, weight: -0.1986 },
  { name: 'excLtas2', mean: -4.335, sd: 6.3171, weight: 0.4566 },
  { name: 'excFloor2', mean: -2.7378, sd: 4.6566, weight: 0.38 },
  { name: 'excQ25t14', mean: -1.2834, sd: 2.2789, weight: 0.2749 },
  { name: 'excWpt14', mean: -1.0184, sd: 1.7742, weight: 0.2803 },
  { name: 'twelfthMean14', mean: 1.1465, sd: 1.5282, weight: -0.2362 },
  { name: 'octave', mean: 3.7296, sd: 1.9501, weight: 0.2716 },
]

export const RING_ODDS = { slope: 1.11, offset: -0.51 } as const
export const RING_MARK_SCORE = -2
export const RING_HEIGHT: BellReading = {
  intercept: 5.25,
  coefficients: [0, 0, 0.5, 0, 0, 0, 0, 0, 0, 0, 0, 0],
  bounds: Array.from({ length: 12 }, () => [-40, 40] as const),
}
export const RING_WIDTH: BellReading = { ...RING_HEIGHT, intercept: 2.74, coefficients: [0] }
