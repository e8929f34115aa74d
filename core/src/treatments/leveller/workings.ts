import { lowCutSections } from '../../dynamics'
import type { TreatmentWorkings } from '../kind'
import type { LevellerDesign, LevellerParams } from './params'
import { LevellerProcessor } from './processor'

/** How the sound of `leveller` is made. */
export const levellerWorkings: TreatmentWorkings<LevellerParams, LevellerDesign> = {
  design: ({ lowCutHz }, sampleRateHz) => ({ lowCut: lowCutSections(lowCutHz, sampleRateHz) }),
  isHeavy: () => false,
  latency: () => 0,
  make: (sampleRateHz, channels) => new LevellerProcessor(sampleRateHz, channels),
  response: null,
}
