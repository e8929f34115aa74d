export { chainKernels, withKernels } from './kernels'
export { isPlain, type MixBed, renderOverBed } from './mix-bed'
export {
  LIFT_DB,
  listeningPlan,
  type MixPlan,
  panGains,
  renderPlan,
  type TrackPlan,
} from './mix-plan'
export { type Bypass, Mixer, type MixTaps, type ReadAudio, type TrackAudio } from './mixer'
export type { Processor } from './processor'
export { type RenderOptions, renderMix, renderTrack, type Stretch } from './render'
export { chainBands, stageBands, TrackChain } from './track-chain'
export { type Loop, readStretch, Transport } from './transport'
