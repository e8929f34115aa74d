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
export {
  BAND_LIMITS,
  BUTTERWORTH_Q,
  CHANNEL_MODES,
  type ChannelMode,
  type EqBand,
  eqBandSchema,
  FILTER_TYPES,
  type FilterType,
  hasGain,
  hasQ,
  hasSlope,
} from './eq-band'
export { parseEqFile, writeEqFile } from './eq-file'
export {
  type AudioRef,
  type Chain,
  type Move,
  type Passage,
  type Reference,
  ROLES,
  type Role,
  SESSION_VERSION,
  type Session,
  STAGES,
  type StageName,
  sessionSchema,
  type Track,
} from './schema'
export { checkSession, parseSession, writeSession } from './session-file'
