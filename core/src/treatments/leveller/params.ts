import * as z from 'zod'
import type { Biquad } from '../../filters'

export const levellerParams = z.strictObject({
  /** In dB relative to a mean square of 1. */
  thresholdDb: z.number().min(-80).max(0),
  ratio: z.number().min(1).max(100),
  kneeDb: z.number().min(0).max(30),
  /** The most that is taken. */
  atMostDb: z.number().min(0).max(24),
  detector: z.enum(['both', 'fast']),
  attackMs: z.number().min(0.1).max(500),
  releaseMs: z.number().min(5).max(5000),
  lowCutHz: z.number().min(20).max(1000),
  /** Share of the levelled sound, 0 to 1. */
  mix: z.number().min(0).max(1),
  outputDb: z.number().min(-24).max(24),
})
export type LevellerParams = z.infer<typeof levellerParams>

/** The detector's low cut. */
export interface LevellerDesign {
  readonly lowCut: readonly Biquad[]
}
