import * as z from 'zod'
import { turnFrames, turnKernel, turnLatency } from '../../filters'
import type { TreatmentKind } from '../kind'
import { type AlignDesign, type AlignParams, alignParams, earliness } from './params'
import { AlignProcessor } from './processor'

export type { AlignParams } from './params'

const alignFile = z.strictObject({
  delayFrames: alignParams.shape.delayFrames.default(0),
  polarity: alignParams.shape.polarity.default(1),
  turnDeg: alignParams.shape.turnDeg.default(0),
})

/** Lines a sound up with another one: fractional delay, polarity and a constant turn of phase. */
export const align: TreatmentKind<'align', AlignParams, AlignDesign> = {
  kind: 'align',
  name: 'Align',
  params: alignParams,
  takesKey: false,
  defaults: () => ({ delayFrames: 0, polarity: 1, turnDeg: 0 }),
  file: { params: alignFile, read: (file) => file, write: (params) => params },
  design: ({ turnDeg }, sampleRateHz) => ({
    turnDeg,
    turn: turnDeg === 0 ? null : turnKernel(turnFrames(sampleRateHz), turnDeg),
  }),
  isHeavy: ({ turnDeg }) => turnDeg !== 0,
  latency: ({ delayFrames }, { turn }) =>
    earliness(delayFrames) + (turn ? turnLatency(turn.length) : 0),
  make: (sampleRateHz, channels) => new AlignProcessor(sampleRateHz, channels),
  acts: ({ delayFrames, polarity, turnDeg }) =>
    delayFrames !== 0 || polarity !== 1 || turnDeg !== 0,
  response: ({ delayFrames, polarity }, { turn }) => ({
    sections: [],
    kernels: turn ? [turn] : [],
    latency: turn ? (turn.length - 1) / 2 : 0,
    sign: polarity,
    delayFrames,
  }),
  describe({ delayFrames, polarity, turnDeg }) {
    const parts = [
      delayFrames === 0
        ? null
        : `${Number(Math.abs(delayFrames).toFixed(2))} frames ${delayFrames < 0 ? 'earlier' : 'later'}`,
      polarity === -1 ? 'polarity turned' : null,
      turnDeg === 0 ? null : `phase turned by ${Number(turnDeg.toFixed(1))}°`,
    ].filter((p) => p !== null)
    return parts.length > 0 ? parts.join(', ') : 'no shift'
  },
}
