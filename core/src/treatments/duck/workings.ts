import type { TreatmentWorkings } from '../kind'
import { type DuckDesign, designDuck } from './design'
import type { DuckParams } from './params'
import { DuckProcessor } from './processor'

/** How the sound of `duck` is made. */
export const duckWorkings: TreatmentWorkings<DuckParams, DuckDesign> = {
  design: designDuck,
  isHeavy: () => true,
  latency: (_, { latencyFrames }) => latencyFrames,
  make: (sampleRateHz, channels) => new DuckProcessor(sampleRateHz, channels),
  // What it does depends on the moment: nothing is drawn as if it stood.
  response: null,
}
