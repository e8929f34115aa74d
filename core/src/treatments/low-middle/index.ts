import type { TreatmentForm } from '../kind'
import { type LowMiddleParams, lowMiddleParams } from './params'

export type { LowMiddleParams } from './params'

/**
 * Takes the sides away below a frequency. The middle is only delayed, and the sides above keep level and
 * phase: their filter is the linear-phase high branch of a Linkwitz-Riley crossover.
 */
export const lowMiddle: TreatmentForm<'low-middle', LowMiddleParams> = {
  kind: 'low-middle',
  name: 'Mono low end',
  params: lowMiddleParams,
  takesKey: false,
  defaults: () => ({ hz: 120, slopeDbPerOct: 24 }),
  file: { params: lowMiddleParams, read: (file) => file, write: (params) => params },
  acts: () => true,
  describe: ({ hz, slopeDbPerOct }) =>
    `mono below ${Number(hz.toPrecision(3))} Hz, ${slopeDbPerOct} dB/oct`,
}
