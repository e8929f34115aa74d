export { kWeighting, kWeightingDb } from './k-weighting'
export {
  LoudnessMeter,
  type LoudnessReading,
  loudnessSteps,
  measureLoudness,
  readLoudnessSteps,
  stepFrames,
} from './loudness-meter'
export { type Normalise, normalisingGain } from './normalise'
export { type OutputFigures, OutputMeter } from './output-meter'
export { TruePeakMeter, truePeakAmplitude, truePeakDbtp } from './true-peak'
