export { kWeighting } from './k-weighting'
export { LoudnessMeter, type LoudnessReading, measureLoudness } from './loudness-meter'
export { truePeakDbtp } from './true-peak'
