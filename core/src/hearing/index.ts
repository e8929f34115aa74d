export { earTransferDb } from './ear'
export { exactLoudness, exactPartialLoudness, type SoundComponent } from './exact-loudness'
export { excitation, FILTER_COUNT, FILTER_HZ, lowerSlope, roex, symmetricSlope } from './excitation'
export {
  type Calibration,
  cochlearGains,
  DEFAULT_CALIBRATION,
  type HearingBands,
  hearingBands,
} from './hearing-bands'
export {
  addSums,
  emptySums,
  MASKING_MODEL,
  type MaskingMode,
  type MaskingSums,
  type MaskingTrack,
  maskFrames,
  maskingFrames,
  maskPatterns,
  type PairMasking,
  pairMasking,
  perErb,
  type TrackMasking,
  type TrackPatterns,
  trackMasking,
  trackPatterns,
} from './masking'
export {
  bandEdgeHz,
  specificLoudness,
  specificPartialLoudness,
  toneIntensity,
  totalSone,
} from './specific-loudness'
