export { kWeighting, kWeightingDb } from './k-weighting'
export { LoudnessMeter, type LoudnessReading, measureLoudness } from './loudness-meter'
export { truePeakDbtp } from './true-peak'
