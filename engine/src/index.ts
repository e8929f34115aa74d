export {
  type Analysis,
  type Covering,
  type HeardTrack,
  NOTHING_MEASURED,
} from './analysis/analysis'
export { measureNow } from './analysis/read-measure'
export {
  type OwnerId,
  type SessionFinding,
  type SessionMove,
  type SessionPlan,
  soundState,
} from './analysis/session-finding'
export type { AuditionMode } from './desk/audition'
export { type Audition, type Compare, type CompareTarget, Desk } from './desk/desk'
export type { PhaseCost } from './desk/kernel-store'
export {
  fileName,
  type RenderChoice,
  type RenderedFile,
  renderSession,
} from './desk/render-session'
export { EngineError, errorSentence, isCancel } from './engine-error'
export { type DemoChoice, openDemo } from './files/demo-session'
export {
  fileSource,
  type ImportEvent,
  type ImportedAudio,
  importFiles,
} from './files/import-files'
export type { FileStage } from './files/jobs'
export { openSessionFile, packSession } from './files/session-file'
export { Signal } from './signal'
export type { LiveReading } from './sound/live'
export { Player } from './sound/player'
export {
  deleteSession,
  journalSession,
  listSessions,
  loadSession,
  restoreSession,
  type SessionEntry,
  saveSession,
  tidy,
} from './storage/sessions'
