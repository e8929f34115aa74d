export {
  type Analysis,
  type Covering,
  type HeardTrack,
  NOTHING_MEASURED,
} from './analysis/analysis'
export type { StateFigures } from './analysis/measurement'
export { measureNow } from './analysis/read-measure'
export { type SessionFinding, soundState } from './analysis/session-finding'
export type { AuditionMode } from './desk/audition'
export { type BlindPlace, fingerprintOf, gainsToQuietest } from './desk/compared-states'
export type { PhaseCost } from './desk/design-store'
export {
  Desk,
  type FrequencyRange,
  type HeardRendition,
  type HuntPlace,
  type Rendition,
  type SoundRegion,
} from './desk/desk'
export { type Elsewhere, playbackKey } from './desk/elsewhere'
export {
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
  profileFile,
} from './files/import-files'
export type { FileStage } from './files/jobs'
export { bundleFiles, openSessionFile, packSession } from './files/session-file'
export { lacking } from './needs'
export type { Ask } from './questions/ask'
export type { ChainFor, ChainForm } from './questions/chain-for'
export type { Levelled } from './questions/levelled'
export type { LowEndPair } from './questions/low-end'
export type { NullAnswer, NullSide } from './questions/null-test'
export type { PairReading } from './questions/pair'
export type { PlaybackChoice } from './questions/playback'
export type { PicturePart } from './questions/question'
export type { RangeReading } from './questions/range'
export { Signal } from './signal'
export { type CaptureReading, type CaptureSource, LiveCapture } from './sound/capture'
export type { Lateness } from './sound/lateness'
export type { LiveReading } from './sound/live'
export { LoopedClip } from './sound/looped-clip'
export { Player } from './sound/player'
export {
  PROBE_RESOLUTIONS,
  PROBE_SPEEDS,
  type ProbeResolution,
  type ProbeSettings,
  type ProbeSpeed,
  probeBands,
} from './sound/probe-spectrum'
export { storageTrouble } from './storage/database'
export { type EditHistory, loadHistory, saveHistory } from './storage/histories'
export { deleteImpulse, keepImpulse, listImpulses } from './storage/impulses'
export { askToKeepData, type DataKeeping, dataKeeping } from './storage/keep-data'
export { deletePreset, type KeptPreset, keepPresets, listPresets } from './storage/presets'
export {
  deleteProfile,
  type KeptProfile,
  keepProfile,
  listProfiles,
} from './storage/profiles'
export { type Keeping, SessionKeeper } from './storage/session-keeper'
export { type Holder, SessionLock } from './storage/session-lock'
export {
  deleteSession,
  exportRaw,
  listSessions,
  loadSession,
  restoreLastGood,
  restoreSession,
  type SessionEntry,
  saveSession,
  takeOverSession,
  UnreadableError,
} from './storage/sessions'
export { holdAudio, tidy } from './storage/tidy'
