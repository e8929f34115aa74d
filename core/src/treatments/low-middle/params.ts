import * as z from 'zod'
import { CROSSOVER_SLOPES } from '../../filters'

/** What a low end is made of when it is made mono: both sides, one of them, or both with the right one turned. */
const LOW_END_SOURCES = ['both', 'turned', 'left', 'right'] as const
export type LowEndSource = (typeof LOW_END_SOURCES)[number]

export const lowMiddleParams = z.strictObject({
  /** Where the sides are 6 dB down. */
  hz: z.number().min(20).max(1000),
  slopeDbPerOct: z.literal(CROSSOVER_SLOPES),
  from: z.enum(LOW_END_SOURCES).default('both'),
})
export type LowMiddleParams = z.infer<typeof lowMiddleParams>

/** The filter over the sides, and over a middle that is replaced below: a linear-phase high branch. */
export interface LowMiddleDesign {
  readonly key: string
  readonly kernel: Float32Array
}
