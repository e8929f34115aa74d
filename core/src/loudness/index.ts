export { kWeighting, kWeightingDb } from './k-weighting'
export {
  LoudnessMeter,
  type LoudnessReading,
  loudnessSteps,
  measureLoudness,
  readLoudnessSteps,
  stepFrames,
} from './loudness-meter'
export { truePeakAmplitude, truePeakDbtp } from './true-peak'
