import { linearHighPass, partitionFor } from '../../filters'
import type { StereoPart, TreatmentKind } from '../kind'
import { type LowMiddleDesign, type LowMiddleParams, lowMiddleParams } from './params'
import { LowMiddleProcessor } from './processor'

export type { LowMiddleParams } from './params'

/**
 * Takes the sides away below a frequency. The middle is only delayed, and the sides above keep level and
 * phase: their filter is the linear-phase high branch of a Linkwitz-Riley crossover.
 */
export const lowMiddle: TreatmentKind<'low-middle', LowMiddleParams, LowMiddleDesign> = {
  kind: 'low-middle',
  name: 'Low end in the middle',
  params: lowMiddleParams,
  takesKey: false,
  defaults: () => ({ hz: 120, slopeDbPerOct: 24 }),
  file: { params: lowMiddleParams, read: (file) => file, write: (params) => params },
  design: ({ hz, slopeDbPerOct }, sampleRateHz) => ({
    key: `${hz} ${slopeDbPerOct}`,
    kernel: linearHighPass(hz, slopeDbPerOct, sampleRateHz),
  }),
  isHeavy: () => true,
  // A mono sound has no sides: nothing is done to it, and it is not late.
  latency: (_, { kernel }, channels) =>
    channels === 1 ? 0 : (kernel.length - 1) / 2 + partitionFor(kernel.length),
  make: (_, channels) => new LowMiddleProcessor(channels),
  acts: () => true,
  response: (_, { kernel }, __, part: StereoPart) => ({
    sections: [],
    kernels: part === 'side' ? [kernel] : [],
    latency: part === 'side' ? (kernel.length - 1) / 2 : 0,
    sign: 1,
    delayFrames: 0,
  }),
  describe: ({ hz, slopeDbPerOct }) =>
    `sides taken away below ${Number(hz.toPrecision(3))} Hz, ${slopeDbPerOct} dB per octave`,
}
