import * as z from 'zod'
import { DRAWN_LIMITS_DB, type FirWindow, LONGEST_FIR, SHORTEST_FIR } from '../../filters'

/** Points that one curve holds. */
export const MOST_POINTS = 1024

const pointSchema = z.strictObject({
  hz: z.number().min(10).max(40_000),
  db: z.number().min(DRAWN_LIMITS_DB[0]).max(DRAWN_LIMITS_DB[1]),
})

const DRAWN_WINDOWS = ['hann', 'blackman-harris', 'flat-top', 'kaiser'] as const

export const drawnCurveParams = z.strictObject({
  points: z
    .array(pointSchema)
    .min(1)
    .max(MOST_POINTS)
    .refine(
      (points) => points.every((p, i) => i === 0 || p.hz > points[i - 1].hz),
      'points must be in rising order of frequency',
    ),
  joining: z.enum(['straight', 'smooth']),
  /** Over what lines are straight. */
  axis: z.enum(['log', 'linear']),
  /** Length of the filter, in frames. */
  taps: z.int().min(SHORTEST_FIR).max(LONGEST_FIR),
  window: z.enum(DRAWN_WINDOWS),
  /** Stop band of the Kaiser window; of no matter for others. */
  kaiserDb: z.number().min(20).max(160),
  phase: z.enum(['minimum', 'linear']),
})
export type DrawnCurveParams = z.infer<typeof drawnCurveParams>

/** The window as filters take it. */
export function drawnWindow({
  window,
  kaiserDb,
}: Pick<DrawnCurveParams, 'window' | 'kaiserDb'>): FirWindow {
  return window === 'kaiser' ? { kind: 'kaiser', attenuationDb: kaiserDb } : { kind: window }
}
