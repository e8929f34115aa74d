export { applyEdits } from './apply-edits'
export { parseChainFile, writeChainFile } from './chain-file'
export { parseCurveCsv, writeCurveCsv } from './curve-file'
export {
  activeMoves,
  chainOf,
  chainWith,
  emptyChain,
  emptySession,
  freeLetter,
  groupsAbove,
  newGroup,
  newTrack,
  routedNode,
  sessionFrames,
  trimmedChain,
} from './defaults'
export {
  greatestBoostDb,
  type NodeDifference,
  type NodeTrait,
  stateDifferences,
} from './differences'
export { DocumentError } from './document-error'
export {
  type Arrival,
  type Edit,
  type EditOf,
  editSchema,
  type MoveNote,
  withIdentities,
} from './edit'
export { parseEqFile, writeEqFile } from './eq-file'
export { guessRole } from './guess-role'
export {
  isFindingKey,
  isVoice,
  LISTENING,
  MOST,
  ROLES,
  type Role,
  SESSION_VERSION,
} from './names'
export { placeOnTimeLine } from './place'
export {
  PRESET_SCOPES,
  type Preset,
  type PresetPlace,
  type PresetScope,
  parsePresetFile,
  presetEdits,
  writePresetFile,
} from './preset-file'
export { parseProfile, writeProfile } from './profile-file'
export { referencePassage } from './reference'
export { cycleSentence, findCycle } from './routing'
export {
  type AudioRef,
  type BlindTest,
  type Chain,
  type Dismissed,
  type Group,
  type NamedPassage,
  type Passage,
  type Reference,
  type Routed,
  type Session,
  sessionSchema,
  sessionSchemaFor,
  type Track,
  type TrimmedChain,
  type Variation,
} from './schema'
export { checkSession, parseSession, writeSession } from './session-file'
export { traitWords } from './trait-words'
export { AS_IT_CAME, sessionInVariation, workedIn } from './variations'
export { sessionWithChain, sessionWithout, type WithoutTarget } from './without'
export { unpackProblem, type ZipEntry, zipContents, zipDirectory } from './zip-directory'
