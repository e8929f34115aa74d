export { Beside } from './beside'
export { Company, kTogether } from './company'
export { earTransferDb } from './ear'
export { exactLoudness, exactPartialLoudness, type SoundComponent } from './exact-loudness'
export {
  bandsAround,
  changeExcitation,
  ERB_STEP,
  excitation,
  FILTER_COUNT,
  FILTER_HZ,
  FIRST_FILTER,
  lowerSlope,
  roex,
  symmetricSlope,
} from './excitation'
export { type HeardMoments, heardMoments, type MomentsLayout, MomentsMeter } from './heard-moments'
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
  type Intelligibility,
  readIntelligibility,
  SII_BANDS,
  type SiiReading,
  STRETCH_SECONDS,
  speechIntelligibility,
} from './intelligibility'
export { type Understood, understoodAt } from './intelligibility-at-moments'
export {
  type FilterConstants,
  filterConstants,
  inNoise,
  inQuiet,
  kFactor,
  TONAL_MASKER_DB,
} from './loudness-law'
export { type LoudnessOverTime, loudnessOverTime } from './loudness-over-time'
export {
  addSums,
  emptySums,
  type HearingSettings,
  MASKING_MODEL,
  type MaskingMode,
  type MaskingSums,
  type MaskingTrack,
  maskPatterns,
  maskTracks,
  type PairMasking,
  pairMasking,
  perErb,
  type TrackMasking,
  trackMasking,
} from './masking'
export {
  type Activity,
  activityOf,
  type Moments,
  planMoments,
  sampleMoments,
} from './moments'
export {
  bandEdgeHz,
  filterNear,
  inNoiseAt,
  inQuietAt,
  maskedThreshold,
  specificLoudness,
  specificPartialLoudness,
  toneIntensity,
  totalSone,
} from './specific-loudness'
export {
  coversMore,
  type EarPatterns,
  earIntensity,
  hasTwoEars,
  type PartGains,
  type TrackPatterns,
  trackPatterns,
} from './track-patterns'
export {
  type EarFactors,
  earFactors,
  emptyFactors,
  joinBy,
  joinEars,
  type Listening,
} from './two-ears'
