import type { TreatmentForm } from '../kind'
import { type LowEndSource, type LowMiddleParams, lowMiddleParams } from './params'

export type { LowEndSource, LowMiddleParams } from './params'

const FROM_WORDS: Readonly<Record<LowEndSource, string>> = {
  both: '',
  turned: ', right side inverted',
  left: ', from the left side',
  right: ', from the right side',
}

/**
 * Makes the low end mono below a frequency: of both sides, of one, or of both with the right one turned, for a low end whose sides
 * are in opposite polarity. What is above keeps level and phase: the filter is the linear-phase high branch of a
 * Linkwitz-Riley crossover.
 */
export const lowMiddle: TreatmentForm<'low-middle', LowMiddleParams> = {
  kind: 'low-middle',
  name: 'Mono low end',
  params: lowMiddleParams,
  takesKey: false,
  defaults: () => ({ hz: 120, slopeDbPerOct: 24, from: 'both' }),
  file: { params: lowMiddleParams, read: (file) => file, write: (params) => params },
  acts: () => true,
  describe: ({ hz, slopeDbPerOct, from }) =>
    `mono below ${Number(hz.toPrecision(3))} Hz, ${slopeDbPerOct} dB/oct${FROM_WORDS[from]}`,
}
