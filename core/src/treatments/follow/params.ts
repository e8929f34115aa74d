import * as z from 'zod'
import { type EqBand, newBand } from '../../filters'
import { itemId } from '../evidence'

/** Width of the knee: a voice's level moves by about as much within a syllable. */
export const FOLLOW_KNEE_DB = 6
/** Bands that one treatment follows in. */
export const MOST_FOLLOW_BANDS = 8
/** Bands are shaped by these; a cut moves all that lies below its corner, or above. */
export const FOLLOW_TYPES = ['bell', 'low-shelf', 'high-shelf', 'low-cut', 'high-cut'] as const

const hz = z.number().min(20).max(20_000)

const bandSchema = z.strictObject({
  id: itemId,
  on: z.boolean(),
  type: z.enum(FOLLOW_TYPES),
  hz,
  q: z.number().min(0.1).max(40),
  channel: z.enum(['stereo', 'mid', 'side']),
  /** The most that is done: below zero down, above it up. */
  rangeDb: z.number().min(-24).max(24),
  /** `absolute`: in dB relative to a mean square of 1; `relative`: against the usual level of what is listened to. */
  threshold: z.strictObject({
    against: z.enum(['absolute', 'relative']),
    db: z.number().min(-90).max(24),
  }),
  /** Null for straight to the range. */
  ratio: z.number().min(1).max(100).nullable(),
  /** Times to 63 % of a step; a second smoothing of 4 ms is part of them. */
  attackMs: z.number().min(0.1).max(2000),
  holdMs: z.number().min(0).max(2000),
  releaseMs: z.number().min(1).max(10_000),
  /** The key in this band; the key between two frequencies; or the sound itself in this band. */
  listens: z.discriminatedUnion('to', [
    z.strictObject({ to: z.literal('key') }),
    z
      .strictObject({ to: z.literal('key-range'), fromHz: hz, toHz: hz })
      .refine((r) => r.toHz > r.fromHz, 'a range ends above its beginning'),
    z.strictObject({ to: z.literal('itself') }),
  ]),
})
export type FollowBand = z.infer<typeof bandSchema>

export const followParams = z.strictObject({
  bands: z
    .array(bandSchema)
    .max(MOST_FOLLOW_BANDS)
    .refine(
      (bands) => new Set(bands.map((b) => b.id)).size === bands.length,
      'two bands of one treatment have the same id',
    ),
  /** Time by which gains move before the sound that asks for them, in ms; the sound is late by as much. */
  lookAheadMs: z.number().min(0).max(10),
  /** Share of the treated sound, 0 to 1. */
  blend: z.number().min(0).max(1),
  /** Gain of what is listened to, in dB. */
  keyDb: z.number().min(-24).max(24),
  /** Gain behind, in dB. */
  outputDb: z.number().min(-24).max(24),
})
export type FollowParams = z.infer<typeof followParams>

/** Frames by which a sound is late so that gains may move before it. */
export interface FollowDesign {
  readonly lookAheadFrames: number
}

/** A band that gives way by so much where its key is at its usual level. */
export function newFollowBand(id: string, at: Partial<FollowBand> = {}): FollowBand {
  return {
    id,
    on: true,
    type: 'bell',
    hz: 1000,
    q: 1,
    channel: 'stereo',
    rangeDb: -4,
    threshold: { against: 'relative', db: -6 },
    ratio: null,
    attackMs: 15,
    holdMs: 0,
    releaseMs: 150,
    listens: { to: 'key' },
    ...at,
  }
}

/** A region is two shelves in series, each with half of its gain, damped like the halves of a Butterworth filter. */
export const REGION_QS = [0.5412, 1.3066] as const

/** The filters that a band stands for at a gain. */
export function followFilters(
  { type, hz, q, channel }: Pick<FollowBand, 'type' | 'hz' | 'q' | 'channel'>,
  db: number,
): EqBand[] {
  if (type !== 'low-cut' && type !== 'high-cut') return [{ ...newBand(type, hz), q, db, channel }]
  const shelf = type === 'low-cut' ? 'low-shelf' : 'high-shelf'
  return REGION_QS.map((half) => ({ ...newBand(shelf, hz), q: half, db: db / 2, channel }))
}
