import { drawnFir } from '../../filters'
import { type KernelDesign, kernelWorkings } from '../kernel-processor'
import type { TreatmentWorkings } from '../kind'
import { type DrawnCurveParams, drawnWindow } from './params'

/** How the sound of `drawn-curve` is made. */
export const drawnCurveWorkings: TreatmentWorkings<DrawnCurveParams, KernelDesign> = {
  ...kernelWorkings,
  design(params, sampleRateHz) {
    const { taps, phase } = params
    const made = drawnFir(params, { taps, phase, window: drawnWindow(params) }, sampleRateHz)
    const key = `${sampleRateHz} ${JSON.stringify(params)}`
    return { key, kernel: made.taps, delay: made.latency }
  },
}
