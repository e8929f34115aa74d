export { kWeighting, kWeightingDb } from './k-weighting'
export {
  LoudnessMeter,
  type LoudnessReading,
  loudnessSteps,
  measureLoudness,
  readLoudnessSteps,
  stepFrames,
} from './loudness-meter'
export { installPeakKernel, TruePeakMeter, truePeakAmplitude, truePeakDbtp } from './true-peak'
