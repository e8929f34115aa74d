import type { TreatmentForm } from '../kind'
import { type DrawnCurveParams, drawnCurveParams } from './params'

export { type DrawnCurveParams, drawnWindow, MOST_POINTS } from './params'

/** A response drawn by hand, from +24 dB down to silence, by one long filter. */
export const drawnCurve: TreatmentForm<'drawn-curve', DrawnCurveParams> = {
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
  acts: ({ points }) => points.some((p) => p.db !== 0),
  describe: ({ points, taps, phase }) =>
    `${points.length} ${points.length === 1 ? 'point' : 'points'}, ${taps} taps, ${phase} phase`,
}
