export { type Band, type BandLayout, BandSums, erbBands, makeBands, sumIntoBands } from './bands'
export { convolve } from './convolve'
export { type CrossSpectrum, crossSpectrum } from './cross-spectrum'
export { type DoubleFft, doubleFft } from './double-fft'
export { erbBandwidthHz, erbNumberToHz, hzToErbNumber } from './erb'
export { partitionFft, type RealFft, realFft, referenceFft } from './fft'
export {
  isShort,
  LongTermMeter,
  longTermLevels,
  longTermPower,
  meanInBands,
  type SpectrumSum,
  sumSpectra,
} from './long-term'
export { type NoteReading, nearestNote } from './note-name'
export { type PartitionFft, plainPartitions, type Spectrum } from './partition-fft'
export {
  loudestInRanges,
  SpectrogramMeter,
  type SpectrogramSettings,
  spectrogram,
  spectrogramColumns,
} from './spectrogram'
export { forEachSpectrum, powerSpectrum, type StftSettings } from './stft'
export { kaiserWindow, makeWindow, noiseBandwidthBins, type WindowName } from './windows'
