import { drawnFir, partitionFor } from '../../filters'
import { type KernelDesign, KernelProcessor } from '../kernel-processor'
import type { TreatmentWorkings } from '../kind'
import { type DrawnCurveParams, drawnWindow } from './params'

/** How the sound of `drawn-curve` is made. */
export const drawnCurveWorkings: TreatmentWorkings<DrawnCurveParams, KernelDesign> = {
  design(params, sampleRateHz) {
    const { taps, phase } = params
    const made = drawnFir(params, { taps, phase, window: drawnWindow(params) }, sampleRateHz)
    const key = `${sampleRateHz} ${JSON.stringify(params)}`
    return { key, kernel: made.taps, delay: made.latency }
  },
  isHeavy: () => true,
  latency: (_, { kernel, delay }) => delay + partitionFor(kernel.length),
  make: (_, channels) => new KernelProcessor(channels),
  response: (_, { kernel, delay }) => ({
    sections: [],
    kernels: [kernel],
    latency: delay,
    sign: 1,
    delayFrames: 0,
  }),
}
