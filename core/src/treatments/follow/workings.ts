import type { TreatmentWorkings } from '../kind'
import type { FollowDesign, FollowParams } from './params'
import { FollowProcessor } from './processor'

/** How the sound of `follow` is made. */
export const followWorkings: TreatmentWorkings<FollowParams, FollowDesign> = {
  design: ({ lookAheadMs }, sampleRateHz) => ({
    lookAheadFrames: Math.round((lookAheadMs * sampleRateHz) / 1000),
  }),
  isHeavy: () => false,
  latency: (_, { lookAheadFrames }) => lookAheadFrames,
  make: (sampleRateHz, channels) => new FollowProcessor(sampleRateHz, channels),
  // What it does depends on the moment: nothing is drawn as if it stood.
  response: null,
}
