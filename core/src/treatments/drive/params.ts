import * as z from 'zod'

export const driveParams = z.strictObject({
  /** Gain into the curve, taken out again for quiet sound. */
  driveDb: z.number().min(0).max(18),
  /** Share of the driven sound, 0 to 1. */
  mix: z.number().min(0).max(1),
  outputDb: z.number().min(-24).max(24),
})
export type DriveParams = z.infer<typeof driveParams>
