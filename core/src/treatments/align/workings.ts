import { turnFrames, turnKernel, turnLatency } from '../../filters'
import type { TreatmentWorkings } from '../kind'
import { type AlignDesign, type AlignParams, earliness } from './params'
import { AlignProcessor } from './processor'

/** How the sound of `align` is made. */
export const alignWorkings: TreatmentWorkings<AlignParams, AlignDesign> = {
  design: ({ turnDeg }, sampleRateHz) => ({
    turnDeg,
    turn: turnDeg === 0 ? null : turnKernel(turnFrames(sampleRateHz), turnDeg),
  }),
  isHeavy: ({ turnDeg }) => turnDeg !== 0,
  latency: ({ delayFrames }, { turn }) =>
    earliness(delayFrames) + (turn ? turnLatency(turn.length) : 0),
  make: (sampleRateHz, channels) => new AlignProcessor(sampleRateHz, channels),
  response: ({ delayFrames, polarity }, { turn }) => ({
    sections: [],
    kernels: turn ? [turn] : [],
    latency: turn ? (turn.length - 1) / 2 : 0,
    sign: polarity,
    delayFrames,
  }),
}
