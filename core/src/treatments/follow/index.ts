import type { TreatmentKind } from '../kind'
import { type FollowDesign, type FollowParams, followParams } from './params'
import { FollowProcessor } from './processor'

export {
  FOLLOW_TYPES,
  type FollowBand,
  type FollowParams,
  MOST_FOLLOW_BANDS,
  newFollowBand,
} from './params'

/** Bands that give way, or come forward, while what is listened to is loud in them. */
export const follow: TreatmentKind<'follow', FollowParams, FollowDesign> = {
  kind: 'follow',
  name: 'Follow in bands',
  params: followParams,
  takesKey: true,
  defaults: () => ({ bands: [], lookAheadMs: 0, blend: 1, keyDb: 0, outputDb: 0 }),
  file: { params: followParams, read: (file) => file, write: (params) => params },
  design: ({ lookAheadMs }, sampleRateHz) => ({
    lookAheadFrames: Math.round((lookAheadMs * sampleRateHz) / 1000),
  }),
  isHeavy: () => false,
  latency: (_, { lookAheadFrames }) => lookAheadFrames,
  make: (sampleRateHz, channels) => new FollowProcessor(sampleRateHz, channels),
  acts: ({ bands, outputDb }) => outputDb !== 0 || bands.some((b) => b.on && b.rangeDb !== 0),
  // What it does depends on the moment: nothing is drawn as if it stood.
  response: () => ({
    sections: [],
    kernels: [],
    latency: 0,
    sign: 1,
    delayFrames: 0,
  }),
  describe({ bands }) {
    const on = bands.filter((b) => b.on)
    if (on.length === 0) return 'no band yet'
    const deepest = on.reduce((a, b) => (Math.abs(b.rangeDb) > Math.abs(a) ? b.rangeDb : a), 0)
    const count = on.length === 1 ? '1 band' : `${on.length} bands`
    return `${count}, up to ${Math.abs(deepest).toFixed(1)} dB ${deepest < 0 ? 'down' : 'up'}`
  },
}
