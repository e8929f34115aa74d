import { Oversampler } from '../../dynamics'
import { NO_DESIGN, type NoDesign, type TreatmentWorkings } from '../kind'
import type { DriveParams } from './params'
import { DriveProcessor } from './processor'

/** How the sound of `drive` is made. */
export const driveWorkings: TreatmentWorkings<DriveParams, NoDesign> = {
  design: () => NO_DESIGN,
  isHeavy: () => false,
  latency: () => Oversampler.latency,
  make: (sampleRateHz, channels) => new DriveProcessor(sampleRateHz, channels),
  // It depends on the level: nothing is drawn as if it stood.
  response: null,
}
