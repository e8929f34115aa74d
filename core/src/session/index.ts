export {
  activeMoves,
  emptyChain,
  emptySession,
  freeLetter,
  newBand,
  newTrack,
  sessionFrames,
} from './defaults'
export { DocumentError } from './document-error'
export { type EqBand, eqBandSchema } from './eq-band'
export { parseEqFile, writeEqFile } from './eq-file'
export {
  BAND_LIMITS,
  BUTTERWORTH_Q,
  CHANNEL_MODES,
  type ChannelMode,
  FILTER_TYPES,
  type FilterType,
  hasGain,
  hasQ,
  hasSlope,
  PHASE_NAMES,
  ROLES,
  type Role,
  SESSION_VERSION,
  STAGES,
  type StageName,
} from './names'
export { placeOnTimeLine } from './place'
export {
  type AudioRef,
  type Chain,
  type Dismissed,
  type Move,
  type MoveMeasure,
  type Passage,
  type Reference,
  type Session,
  sessionSchema,
  type Track,
} from './schema'
export { checkSession, parseSession, writeSession } from './session-file'
