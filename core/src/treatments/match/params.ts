import * as z from 'zod'
import { PHASE_NAMES } from '../../filters'
import { TWELFTHS } from '../../match/profile'

const levels = z.array(z.number().min(-300).max(100)).length(TWELFTHS.length)

/** Lengths of the filter, in frames. */
export const MATCH_TAPS = [1024, 2048, 4096, 8192, 16_384] as const
/** Widest and narrowest smoothing, in octaves. */
export const SMOOTHING_OCTAVES = [1 / 12, 2] as const

export const matchParams = z
  .strictObject({
    /** What it is brought to, for people. */
    target: z.string().max(200),
    /** Levels per twelfth of an octave: of the sound, and of the target at the same loudness. */
    haveDb: levels,
    wantDb: levels,
    /** 0 where one of the two is only noise, 1 where both sound surely. */
    weight: z.array(z.number().min(0).max(1)).length(TWELFTHS.length),
    /** Level of the difference at which nothing is done. */
    zeroDb: z.number().min(-120).max(120),
    smoothing: z.union([
      z.literal('erb'),
      z
        .number()
        .min(SMOOTHING_OCTAVES[0] - 1e-9)
        .max(SMOOTHING_OCTAVES[1]),
    ]),
    fromHz: z.number().min(20).max(20_000),
    toHz: z.number().min(20).max(20_000),
    mostBoostDb: z.number().min(0).max(24),
    mostCutDb: z.number().min(0).max(24),
    amount: z.number().min(0).max(1.5),
    taps: z.literal(MATCH_TAPS),
    phase: z.enum(PHASE_NAMES),
    /** Whether the sound is to stay as loud as it was. */
    keepLoudness: z.boolean(),
  })
  .refine(({ fromHz, toHz }) => toHz > fromHz, 'the span ends above where it begins')
export type MatchParams = z.infer<typeof matchParams>
