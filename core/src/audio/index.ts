export { readAiff } from './aiff-read'
export { AudioError } from './audio-error'
export { type Clip, channelCorrelation, makeClip, samplePeak, scaled, sliceClip } from './clip'
export { decimate } from './decimate'
export { ditherToInteger } from './dither'
export {
  amplitudeToDb,
  clamp,
  dbToAmplitude,
  dbToPower,
  powerToDb,
  SILENCE_DB,
} from './level'
export { type Random, seededRandom } from './random'
export { type AudioFileKind, audioFileKind, readAudio } from './read-audio'
export { besselI0, resample } from './resample'
export { smoothStep } from './smooth-step'
export { type AudioFile, readWav } from './wav-read'
export { type WavBits, writeWav } from './wav-write'
