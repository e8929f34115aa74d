import * as z from 'zod'

/** Frames that the fractional delay's filter is late by itself. */
export const ALIGN_BASE_FRAMES = 32
/** The longest shift either way: half a second at 96 kHz. */
const MOST_FRAMES = 48_000

export const alignParams = z.strictObject({
  /** Frames by which the sound is moved later; fractions count, negative is earlier. */
  delayFrames: z.number().min(-MOST_FRAMES).max(MOST_FRAMES),
  polarity: z.literal([1, -1]),
  /** Constant turn of phase at all frequencies; above zero the phase comes later. */
  turnDeg: z.number().min(-180).max(180),
})
export type AlignParams = z.infer<typeof alignParams>

/** The kernel of the turn; null where there is none. */
export interface AlignDesign {
  readonly turnDeg: number
  readonly turn: Float32Array | null
}

/** Frames by which the sound is read ahead, so that it can be moved earlier; in steps, so that it seldom changes. */
export function earliness(delayFrames: number): number {
  const step = 1024
  return ALIGN_BASE_FRAMES + Math.ceil(Math.max(0, -delayFrames) / step) * step
}
