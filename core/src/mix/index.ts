export { addScaled } from './add-stretches'
export { type Deliverable, type DeliverableChoice, deliverables } from './deliverables'
export { fileName, fileNames } from './file-names'
export {
  bedPlan,
  isPlain,
  type MixBed,
  recordingsOfChange,
  renderOverBed,
  trackAlone,
} from './mix-bed'
export { type AddAudio, MAX_BLOCK_FRAMES, Mixer, type MixTaps, type ReadAudio } from './mixer'
export { collectSound, type OpenSound, openSound, placed } from './open-sound'
export {
  chainPlan,
  type Designer,
  designLater,
  designNow,
  LIFT_DB,
  listeningPlan,
  type MixPlan,
  mixNode,
  type NodeChain,
  type NodePlan,
  panGains,
  renderPlan,
  withDesigns,
} from './plan'
export {
  ChainRun,
  MixRun,
  type Recordings,
  type RenderOptions,
  renderMix,
  type Stretch,
  streamMix,
  streamRun,
} from './render'
export { type HeardPart, type Listening, Renditions } from './renditions'
export {
  type ChainSound,
  type MixSound,
  mixSound,
  recordingsIn,
  type Sound,
  soundOf,
  type Tap,
  untreated,
} from './sound'
export {
  busPlan,
  isKeyed,
  pathPlan,
  stemPlan,
  trackPlan,
  trackStem,
  withoutSilent,
} from './stems'
export { type Loop, Transport } from './transport'
export { treatClip } from './treat-clip'
