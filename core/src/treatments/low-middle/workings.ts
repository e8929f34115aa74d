import { linearHighPass, partitionFor } from '../../filters'
import type { StereoPart, TreatmentWorkings } from '../kind'
import type { LowMiddleDesign, LowMiddleParams } from './params'
import { LowMiddleProcessor } from './processor'

/** How the sound of `low-middle` is made. */
export const lowMiddleWorkings: TreatmentWorkings<LowMiddleParams, LowMiddleDesign> = {
  design: ({ hz, slopeDbPerOct }, sampleRateHz) => ({
    key: `${hz} ${slopeDbPerOct}`,
    kernel: linearHighPass(hz, slopeDbPerOct, sampleRateHz),
  }),
  isHeavy: () => true,
  // A mono sound has no sides: nothing is done to it, and it is not late.
  latency: (_, { kernel }, channels) =>
    channels === 1 ? 0 : (kernel.length - 1) / 2 + partitionFor(kernel.length),
  make: (_, channels) => new LowMiddleProcessor(channels),
  response: (_, { kernel }, __, part: StereoPart) => ({
    sections: [],
    kernels: part === 'side' ? [kernel] : [],
    latency: part === 'side' ? (kernel.length - 1) / 2 : 0,
    sign: 1,
    delayFrames: 0,
  }),
}
