import { drawnFir, partitionFor } from '../../filters'
import type { TreatmentKind } from '../kind'
import {
  type DrawnCurveDesign,
  type DrawnCurveParams,
  drawnCurveParams,
  drawnWindow,
} from './params'
import { DrawnCurveProcessor } from './processor'

export { type DrawnCurveParams, drawnWindow, MOST_POINTS } from './params'

/** A response drawn by hand, from +24 dB down to silence, by one long filter. */
export const drawnCurve: TreatmentKind<'drawn-curve', DrawnCurveParams, DrawnCurveDesign> = {
  kind: 'drawn-curve',
  name: 'Drawn curve',
  params: drawnCurveParams,
  takesKey: false,
  defaults: () => ({
    points: [
      { hz: 100, db: 0 },
      { hz: 1000, db: 0 },
      { hz: 8000, db: 0 },
    ],
    joining: 'smooth',
    axis: 'log',
    taps: 4096,
    window: 'blackman-harris',
    kaiserDb: 80,
    phase: 'linear',
  }),
  file: { params: drawnCurveParams, read: (file) => file, write: (params) => params },
  design(params, sampleRateHz) {
    const { taps, phase } = params
    const made = drawnFir(params, { taps, phase, window: drawnWindow(params) }, sampleRateHz)
    const key = `${sampleRateHz} ${JSON.stringify(params)}`
    return { key, kernel: made.taps, delay: made.latency }
  },
  isHeavy: () => true,
  latency: (_, { kernel, delay }) => delay + partitionFor(kernel.length),
  make: (_, channels) => new DrawnCurveProcessor(channels),
  acts: ({ points }) => points.some((p) => p.db !== 0),
  response: (_, { kernel, delay }) => ({
    sections: [],
    kernels: [kernel],
    latency: delay,
    sign: 1,
    delayFrames: 0,
  }),
  describe: ({ points, taps, phase }) =>
    `a curve through ${points.length} ${points.length === 1 ? 'point' : 'points'}, ${taps} taps, ${phase} phase`,
}
