export type { AlignParams } from './align'
export {
  type BroadStrokesParams,
  MOST_LAYERS,
  MOST_STROKE_DB,
  STACKS,
  STROKE_NAMES,
  STROKES,
  type StrokeName,
  strokeControls,
} from './broad-strokes'
export { Chain, type ReadKey, type TreatmentPlan } from './chain'
export { type DrawnCurveParams, drawnWindow, MOST_POINTS } from './drawn-curve'
export type { DriveParams } from './drive'
export { DUCK_WIDTHS, type DuckParams } from './duck'
export { type FileBand, fileBandSchema, readFileBand, writeFileBand } from './equaliser/band-file'
export {
  activeBands,
  type ChainBand,
  chainBandSchema,
  type EqualiserParams,
  MOST_BANDS,
  newChainBand,
} from './equaliser/params'
export {
  evidenceSchema,
  itemId,
  type Measure,
  MIX,
  type MoveEvidence,
  NO_HUM_DB,
  nodeId,
  reason,
} from './evidence'
export {
  FOLLOW_KNEE_DB,
  FOLLOW_TYPES,
  type FollowBand,
  type FollowParams,
  followFilters,
  MOST_FOLLOW_BANDS,
  newFollowBand,
} from './follow'
export type {
  AnyForm,
  AnyKind,
  AnyWorkings,
  StereoPart,
  TreatmentKind,
  TreatmentProcessor,
  TreatmentResponse,
  TreatmentWorkings,
} from './kind'
export type { LevellerParams } from './leveller'
export type { LowEndSource, LowMiddleParams } from './low-middle'
export { MATCH_TAPS, type MatchParams, SMOOTHING_OCTAVES } from './match'
export { type PairSum, predictPairSum, type SummedChain } from './pair-sum'
export {
  asRendered,
  type KindName,
  type KindRegistry,
  kindOf,
  type ParamsOf,
  TREATMENT_KINDS,
} from './registry'
export { type ChainResponse, respondChain } from './response'
export {
  BAND_KINDS,
  type BandKind,
  type BandTreatment,
  MOST_IN_BAND,
  MOST_SPLITS,
  newSplitBand,
  type SplitBand,
  type SplitParams,
} from './split'
export {
  endOfStage,
  type Key,
  keySchema,
  newTreatment,
  STAGES,
  type StageName,
  type Treatment,
  treatmentSchema,
  treatmentSchemaFor,
} from './treatment'
export { workingsOf } from './workings'
