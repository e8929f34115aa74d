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
  // What of the sides goes into the middle is no response of either.
  response: ({ from }, { kernel }, __, part: StereoPart) => {
    const isFiltered = part === 'side' || (part === 'mid' && from === 'turned')
    return {
      sections: [],
      kernels: isFiltered ? [kernel] : [],
      latency: isFiltered ? (kernel.length - 1) / 2 : 0,
      sign: 1,
      delayFrames: 0,
    }
  },
}
