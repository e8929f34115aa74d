import type { TreatmentForm } from '../kind'
import { type BroadStrokesParams, broadStrokesParams, strokeBands } from './params'

export {
  type BroadStrokesParams,
  MOST_LAYERS,
  MOST_STROKE_DB,
  STACKS,
  STROKE_NAMES,
  STROKES,
  type StrokeName,
  strokeControls,
} from './params'

/** A few wide controls in steps, cuts that stack, drive after the tone. */
export const broadStrokes: TreatmentForm<'broad-strokes', BroadStrokesParams> = {
  kind: 'broad-strokes',
  name: 'Broad strokes',
  params: broadStrokesParams,
  takesKey: false,
  defaults: () => ({
    weight: { hz: 100, db: 0 },
    body: { hz: 315, db: 0 },
    presence: { hz: 3150, db: 0 },
    air: { hz: 8000, db: 0 },
    lowCut: { hz: 30, layers: 0 },
    highCut: { hz: 16_000, layers: 0 },
    polarity: 1,
    driveDb: 0,
    outputDb: 0,
  }),
  file: { params: broadStrokesParams, read: (file) => file, write: (params) => params },
  acts: (params) =>
    params.polarity === -1 ||
    params.driveDb > 0 ||
    params.outputDb !== 0 ||
    strokeBands(params).length > 0,
  describe(params) {
    const strokes = (['weight', 'body', 'presence', 'air'] as const).flatMap((name) => {
      const { db } = params[name]
      return db === 0 ? [] : [`${name} ${db > 0 ? '+' : '−'}${Math.abs(db)}`]
    })
    if (params.lowCut.layers > 0) strokes.push(`low cut ${params.lowCut.hz} Hz`)
    if (params.highCut.layers > 0) strokes.push(`high cut ${params.highCut.hz} Hz`)
    if (params.driveDb > 0) strokes.push(`drive ${params.driveDb.toFixed(1)}`)
    if (params.polarity === -1) strokes.push('polarity inverted')
    return strokes.length > 0 ? strokes.join(', ') : 'nothing yet'
  },
}
