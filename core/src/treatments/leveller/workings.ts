import type { TreatmentWorkings } from '../kind'
import type { LevellerParams } from './params'
import { LevellerProcessor } from './processor'

/** How the sound of `leveller` is made. */
export const levellerWorkings: TreatmentWorkings<LevellerParams, null> = {
  design: () => null,
  isHeavy: () => false,
  latency: () => 0,
  make: (sampleRateHz, channels) => new LevellerProcessor(sampleRateHz, channels),
  response: null,
}
