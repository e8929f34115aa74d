import * as z from 'zod'
import type { TreatmentForm } from '../kind'
import { type AlignParams, alignParams } from './params'

export type { AlignParams } from './params'

const alignFile = z.strictObject({
  delayFrames: alignParams.shape.delayFrames.default(0),
  polarity: alignParams.shape.polarity.default(1),
  turnDeg: alignParams.shape.turnDeg.default(0),
})

/** Lines a sound up with another one: fractional delay, polarity and a constant turn of phase. */
export const align: TreatmentForm<'align', AlignParams> = {
  kind: 'align',
  name: 'Align',
  params: alignParams,
  takesKey: false,
  defaults: () => ({ delayFrames: 0, polarity: 1, turnDeg: 0 }),
  file: { params: alignFile, read: (file) => file, write: (params) => params },
  acts: ({ delayFrames, polarity, turnDeg }) =>
    delayFrames !== 0 || polarity !== 1 || turnDeg !== 0,
  describe({ delayFrames, polarity, turnDeg }) {
    const parts = [
      delayFrames === 0
        ? null
        : `${Number(Math.abs(delayFrames).toFixed(2))} samples ${delayFrames < 0 ? 'earlier' : 'later'}`,
      polarity === -1 ? 'polarity inverted' : null,
      turnDeg === 0 ? null : `phase rotated ${Number(turnDeg.toFixed(1))}°`,
    ].filter((p) => p !== null)
    return parts.length > 0 ? parts.join(', ') : 'no shift'
  },
}
