export {
  alignClips,
  alignParams,
  type LineUp,
  type LineUpRange,
  WHOLE_LINE_UP,
} from './align-clips'
export { type Alignment, alignPair, type Outline } from './alignment'
export { type AudibleEffect, audibleEffect, effectOfBands } from './audible-effect'
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
} from './balance'
export { bandPowerGains } from './band-gains'
export {
  type Candidate,
  candidatesBehind,
  cleaningCandidates,
  cutNear,
  type Remainder,
  wholeRingCut,
} from './candidates'
export { type CoveredRegion, coveredRegions } from './covered-regions'
export {
  type Evidence,
  FINDING_KINDS,
  type Finding,
  type FindingKind,
  type Prediction,
  SMALL_SONE,
  type Times,
} from './finding'
export { CHANGE_HZ, Foresight, type TrackChange } from './foresight'
export { hearingOf, type PairHearing, pairSums } from './hear-pair'
export { type Hum, HumMeter, needle } from './hum'
export { HUNT, huntBoost } from './hunt'
export { LEVEL_BANDS } from './level-bands'
export { type LineUpPicture, lineUpPicture } from './line-up-picture'
export { isLowCutMade, lowCutMade, proposeLowCut } from './low-cut'
export { LOW_END_BANDS, type LowEndReading, readLowEnd } from './low-end'
export { type LowestSource, lowestSource } from './lowest-source'
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
  PLAN_GROUPS,
  type Plan,
  type PlanGroup,
  type PlanStep,
  planMoves,
  USUAL_GROUPS,
} from './plan'
export { bandsOf, predictMoves } from './predict-moves'
export { type FollowProposal, proposeFollow, usualLevel } from './propose-follow'
export {
  type Aside,
  proposeYielding,
  type YieldOption,
  type YieldProposal,
} from './propose-yielding'
export { rankFindings } from './rank-findings'
export { RingMeter, ringsBehind } from './ring-meter'
export { RING_LEVELS, type Ring } from './rings'
export {
  findingEvidence,
  findingTitle,
  moveSentence,
  type NamedFinding,
  othersOf,
} from './sentence'
export { readSource, SourceMeter, type SourceReading } from './source-reading'
export { steadyLoudness } from './steady-loudness'
export { type ClipTrack, surveyClips, USUAL_HEARING } from './survey-clips'
export { surveyFindings, surveyMix, surveyTracks } from './survey-findings'
export type { SurveyInput, SurveyTrack, SurveyTracks } from './survey-input'
export { estimateTempo, type Tempo } from './tempo'
export { type Effect, Trial, type TrialSettings } from './trial'
export { understoodIn } from './understood'
export { readVoice, type VoiceMove, type VoiceReading, voiceMoves } from './voice'
export { type WinnablePlace, winnablePlaces } from './winnable-places'
export {
  leadOverRest,
  levelEdits,
  type ProposedLevel,
  proposeLevels,
  setLeadOverRest,
  type TrackLoudness,
  WORKING_LUFS,
} from './working-levels'
