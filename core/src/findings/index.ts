export {
  alignClips,
  alignParams,
  type LineUp,
  type LineUpRange,
  WHOLE_LINE_UP,
} from './alignment/align-clips'
export { type Alignment, alignPair, type Outline } from './alignment/alignment'
export { type LineUpPicture, lineUpPicture } from './alignment/line-up-picture'
export { type AudibleEffect, audibleEffect, effectOfBands } from './balance/audible-effect'
export {
  type Balance,
  type BalanceRegion,
  type BalanceTarget,
  DEFAULT_SLOPE_DB,
  heldBands,
  profileLevels,
  profileTarget,
  readBalance,
  referenceTarget,
  regionDeviation,
  slopeTarget,
} from './balance/balance'
export {
  leadOverRest,
  levelEdits,
  type ProposedLevel,
  proposeLevels,
  setLeadOverRest,
  type TrackLoudness,
  WORKING_LUFS,
} from './balance/working-levels'
export { bandPowerGains } from './band-gains'
export {
  type Evidence,
  FINDING_KINDS,
  type Finding,
  type FindingKind,
  type Prediction,
  SMALL_SONE,
  type Times,
} from './finding'
export { LEVEL_BANDS } from './level-bands'
export { type CoveredRegion, coveredRegions } from './masking/covered-regions'
export { CHANGE_HZ, Foresight, type TrackChange } from './masking/foresight'
export { hearingOf, type PairHearing, pairSums } from './masking/hear-pair'
export { type FollowProposal, proposeFollow, usualLevel } from './masking/propose-follow'
export {
  type Aside,
  proposeYielding,
  type YieldOption,
  type YieldProposal,
} from './masking/propose-yielding'
export { type Effect, Trial, type TrialSettings } from './masking/trial'
export { type WinnablePlace, winnablePlaces } from './masking/winnable-places'
export { type MeasureChange, type MeasureSources, readMeasure } from './measure'
export {
  joinMixParts,
  type MixPart,
  type MixPartReading,
  type MixReading,
  mixParts,
  readMixPart,
} from './mix-reading'
export {
  type Candidate,
  candidatesBehind,
  cleaningCandidates,
  cutNear,
  type Remainder,
  wholeRingCut,
} from './own/candidates'
export { HUNT, huntBoost } from './own/hunt'
export { isLowCutMade, lowCutMade, proposeLowCut } from './own/low-cut'
export { LOW_END_BANDS, type LowEndReading, readLowEnd } from './own/low-end'
export { understoodIn } from './own/understood'
export { readVoice, type VoiceMove, type VoiceReading, voiceMoves } from './own/voice'
export {
  PLAN_GROUPS,
  type Plan,
  type PlanGroup,
  type PlanStep,
  planMoves,
  USUAL_GROUPS,
} from './plan'
export { bandsOf, predictMoves } from './predict-moves'
export { rankFindings } from './rank-findings'
export { RING_LEVELS, type Ring } from './rings'
export {
  findingEvidence,
  findingTitle,
  moveSentence,
  type NamedFinding,
  othersOf,
} from './sentence'
export { type Hum, HumMeter, needle } from './source/hum'
export { type LowestSource, lowestSource } from './source/lowest-source'
export { RingMeter, ringsBehind } from './source/ring-meter'
export { readSource, SourceMeter, type SourceReading } from './source/source-reading'
export { steadyLoudness } from './source/steady-loudness'
export { estimateTempo, type Tempo } from './source/tempo'
export { type ClipTrack, surveyClips, USUAL_HEARING } from './survey-clips'
export { surveyFindings, surveyMix, surveyTracks } from './survey-findings'
export type { SurveyInput, SurveyTrack, SurveyTracks } from './survey-input'
export {
  type HeardPlayback,
  heardPlayback,
  heardThrough,
  type ThroughTrack,
  throughSentence,
} from './through/heard-through'
