import * as z from 'zod'
import { CROSSOVER_SLOPES } from '../../filters'

export const lowMiddleParams = z.strictObject({
  /** Where the sides are 6 dB down. */
  hz: z.number().min(20).max(1000),
  slopeDbPerOct: z.literal(CROSSOVER_SLOPES),
})
export type LowMiddleParams = z.infer<typeof lowMiddleParams>

/** The filter over the sides: a linear-phase high branch. */
export interface LowMiddleDesign {
  readonly key: string
  readonly kernel: Float32Array
}
