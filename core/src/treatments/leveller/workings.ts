import { NO_DESIGN, type NoDesign, type TreatmentWorkings } from '../kind'
import type { LevellerParams } from './params'
import { LevellerProcessor } from './processor'

/** How the sound of `leveller` is made. */
export const levellerWorkings: TreatmentWorkings<LevellerParams, NoDesign> = {
  design: () => NO_DESIGN,
  isHeavy: () => false,
  latency: () => 0,
  make: (sampleRateHz, channels) => new LevellerProcessor(sampleRateHz, channels),
  response: null,
}
