// biome-ignore-all lint/suspicious/noApproximativeNumericConstant: numbers that were fitted
// What tells rings, made by `npm run rings -- --fit`: not to be changed by hand.
// Sounds: takes:tuning:1-528 and songs:tuning:200-251, 944 untouched and 1888 ringing.
// Played by espeak-ng 1.51+dfsg-10+deb12u2, fluid-soundfont-gm 3.1-5.3, fluidsynth 2.3.1-2. Trees by bench/src/boosting.ts.
// Each fourth of them by a model of the others (columns as `npm run rings` prints them):
// | fold 1 | finding | 0.01 | 45 % of 472 | 54 % of 315 | 88 % | 2.3 dB, 2.5 | 1.39, 1.44 |
// | fold 1 | mark | 0.51 | 73 % of 472 | 81 % of 315 | 81 % | 2.3 dB, 2.6 | 1.41, 1.45 |
// | fold 2 | finding | 0.05 | 41 % of 472 | 52 % of 300 | 78 % | 2.1 dB, 2.4 | 1.39, 1.43 |
// | fold 2 | mark | 0.63 | 69 % of 472 | 78 % of 300 | 74 % | 2.3 dB, 2.6 | 1.42, 1.45 |
// | fold 3 | finding | 0.02 | 44 % of 472 | 58 % of 292 | 85 % | 2.2 dB, 2.4 | 1.41, 1.46 |
// | fold 3 | mark | 0.62 | 70 % of 472 | 82 % of 292 | 77 % | 2.3 dB, 2.5 | 1.40, 1.45 |
// | fold 4 | finding | 0.03 | 40 % of 472 | 48 % of 316 | 81 % | 2.3 dB, 2.4 | 1.38, 1.42 |
// | fold 4 | mark | 0.64 | 66 % of 472 | 75 % of 316 | 74 % | 2.3 dB, 2.6 | 1.40, 1.43 |
import type { BellReading, RingWeight } from './ring-model'

export const RING_INTERCEPT = -4.3389
// biome-ignore format: a table
export const RING_WEIGHTS: readonly RingWeight[] = [
  { name: 'ltas3', mean: 0.272, sd: 5.5087, weight: -0.073 },
  { name: 'ltas2z', mean: 0.1112, sd: 1.3702, weight: 0.5607 },
  { name: 'wpow5', mean: 0.1178, sd: 3.7574, weight: 0.1633 },
  { name: 'q10z', mean: 0.0663, sd: 1.3289, weight: 0.5001 },
  { name: 'q25z', mean: 0.0715, sd: 1.4014, weight: -0.4149 },
  { name: 'q90', mean: 0.7484, sd: 8.952, weight: -0.6331 },
  { name: 'sd', mean: 0.0781, sd: 2.3496, weight: 0.2251 },
  { name: 'floor3', mean: 0.0714, sd: 3.8188, weight: 0.4737 },
  { name: 'mean8t', mean: 0.1057, sd: 1.9733, weight: -2.1959 },
  { name: 'q25t24', mean: 0.1119, sd: 1.8277, weight: 1.1213 },
  { name: 'partsLow', mean: -3.3233, sd: 8.3272, weight: -0.1965 },
  { name: 'partsT', mean: 0.0198, sd: 4.113, weight: -0.4957 },
  { name: 'partsShare', mean: 0.2436, sd: 0.3174, weight: 0.4069 },
  { name: 'excParts', mean: -2.1791, sd: 3.6842, weight: -0.5306 },
  { name: 'rising', mean: 0.2514, sd: 4.9569, weight: 0.1034 },
  { name: 'softT', mean: 0.0906, sd: 1.7834, weight: 0.2988 },
  { name: 'coarseShare', mean: 0.2466, sd: 0.2972, weight: 0.2519 },
  { name: 'coarseT', mean: 0.0946, sd: 1.3565, weight: 1.3621 },
  { name: 'fineShare', mean: 0.3131, sd: 0.265, weight: 0.1075 },
  { name: 'fifthFine', mean: 0.5009, sd: 0.2583, weight: 0.1594 },
  { name: 'peakMean', mean: -0.784, sd: 5.0232, weight: 0.1859 },
  { name: 'peakShare', mean: 0.4152, sd: 0.1889, weight: 0.5462 },
  { name: 'peakLow', mean: -6.0043, sd: 7.0625, weight: -0.7063 },
  { name: 'peakHigh', mean: 4.6421, sd: 8.3171, weight: -0.4105 },
  { name: 'peakSteadiness', mean: -0.5263, sd: 2.3221, weight: 0.657 },
  { name: 'peakLeastPart', mean: -4.3258, sd: 6.861, weight: -0.1065 },
  { name: 'peakOverBeside', mean: -5.6988, sd: 7.105, weight: -0.247 },
  { name: 'excLtas2', mean: -4.5303, sd: 6.5151, weight: 0.5201 },
  { name: 'excFloor2', mean: -2.9343, sd: 4.9749, weight: 0.541 },
  { name: 'excQ25t14', mean: -1.2795, sd: 2.2716, weight: 0.2411 },
  { name: 'excWpt14', mean: -1.0387, sd: 1.8236, weight: 0.2183 },
  { name: 'twelfthMean14', mean: 1.1474, sd: 1.5263, weight: -0.115 },
  { name: 'octave', mean: 3.7423, sd: 1.9537, weight: 0.1314 },
]

/** Log odds of a claim by its score, where one sound in three has a ring: read off folds, by models of the others. */
export const RING_ODDS = { slope: 1.046, offset: -0.582 } as const
/** From this score on a ring is listed to be listened to: 0.6 false ones in an untouched sound of the folds. */
export const RING_MARK_SCORE = -2.33

/** Height in dB from what stands at the place; see `bellReadings`. */
// biome-ignore format: a table
export const RING_HEIGHT: BellReading = {
  intercept: 7.2784,
  coefficients: [-0.0943, -0.2738, 0.0044, 0.2247, 0.1041, 0.0827, -0.0787, 0.0053, 0.3594, -0.0178, 0.0732, 0.1065],
  bounds: [[-15.1, 37.88], [-7.89, 15.5], [-14.48, 38.88], [-7.63, 15.78], [-15.17, 41.87], [-6.84, 15.31], [-15.91, 25.87], [-19.98, 41.67], [-6.72, 22.81], [-26.07, 45.93], [-7.07, 14.17], [-2.57, 10.48]],
}
/** Natural logarithm of Q, likewise. */
// biome-ignore format: a table
export const RING_WIDTH: BellReading = {
  intercept: 2.882,
  coefficients: [-0.0194, -0.035, 0.0036, -0.041, 0.0223, 0.0829, -0.0051, -0.0001, -0.0142, -0.0036, 0.006, -0.0087],
  bounds: [[-15.1, 37.88], [-7.89, 15.5], [-14.48, 38.88], [-7.63, 15.78], [-15.17, 41.87], [-6.84, 15.31], [-15.91, 25.87], [-19.98, 41.67], [-6.72, 22.81], [-26.07, 45.93], [-7.07, 14.17], [-2.57, 10.48]],
}
