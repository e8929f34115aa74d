export { earTransferDb } from './ear'
export { exactLoudness, exactPartialLoudness, type SoundComponent } from './exact-loudness'
export {
  changeExcitation,
  ERB_STEP,
  excitation,
  FILTER_COUNT,
  FILTER_HZ,
  lowerSlope,
  roex,
  symmetricSlope,
} from './excitation'
export {
  type Calibration,
  cochlearGains,
  DEFAULT_CALIBRATION,
  FRAMES_IN_A_ROW,
  type FrameVisitor,
  type HearingBands,
  type HearingLayout,
  HearingMeter,
  hearingBands,
  midAndSide,
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
  SLOT_FRAMES,
  slicePatterns,
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
