export { readAiff } from './aiff-read'
export {
  fromInt16,
  halveSoftly,
  removeArrayKernel,
  splitStereo,
} from './arrays'
export { AudioError } from './audio-error'
export {
  type AudioSource,
  blocksOf,
  type FrameRange,
  MemorySource,
  readStretch,
} from './audio-source'
export {
  type Clip,
  CorrelationMeter,
  channelCorrelation,
  makeClip,
  samplePeak,
  scaled,
  sliceClip,
} from './clip'
export { decimate } from './decimate'
export { DelayLine } from './delay-line'
export { Dither } from './dither'
export {
  type AudioLayout,
  type ByteRange,
  type ByteSource,
  takeSteps,
  takeStepsFrom,
} from './layout'
export {
  amplitudeToDb,
  clamp,
  dbToAmplitude,
  dbToPower,
  powerToDb,
  SILENCE_DB,
} from './level'
export { bytesPerSample, decodePcm, decodePcmInto } from './pcm'
export { Ramp } from './ramp'
export { type Random, seededRandom } from './random'
export { type AudioFileKind, audioFileKind, audioLayout, readAudio } from './read-audio'
export { besselI0, Resampler, resample } from './resample'
export { smoothStep } from './smooth-step'
export { type AudioFile, readWav } from './wav-read'
export { type WavBits, WavWriter, writeWav } from './wav-write'
