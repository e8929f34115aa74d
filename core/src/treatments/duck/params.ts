import * as z from 'zod'

/** Widths of the bank, in ERB, from coarse to fine. */
export const DUCK_WIDTHS = [3, 2, 1, 0.7, 0.5] as const

export const duckParams = z
  .strictObject({
    /** `even`: as deep as the key is loud; `heard`: as deep as the key needs to be clear, and no deeper. */
    law: z.enum(['even', 'heard']),
    /** The most that is taken, in dB. */
    depthDb: z.number().min(0).max(24),
    /** 1 to 5, see {@link DUCK_WIDTHS}. */
    fineness: z.int().min(1).max(5),
    attackMs: z.number().min(1).max(500),
    /** At 1 kHz; lower bands take longer, higher ones less, where it goes by frequency. */
    releaseMs: z.number().min(5).max(5000),
    releaseByHz: z.boolean(),
    /** Only between these is anything done. */
    fromHz: z.number().min(20).max(20_000),
    toHz: z.number().min(20).max(20_000),
    /** What of the key is not listened to: below and above these. */
    keyFromHz: z.number().min(20).max(20_000),
    keyToHz: z.number().min(20).max(20_000),
    channel: z.enum(['stereo', 'mid', 'side']),
    /** Share of the treated sound, 0 to 1. */
    blend: z.number().min(0).max(1),
    /** Gain of the key against the sound, in dB: what their faders differ by. */
    keyDb: z.number().min(-48).max(48),
    lookAheadMs: z.number().min(0).max(10),
    /** `minimum`: bells, without latency; `linear`: no phase is turned, 43 ms late. Older files have none of it. */
    phase: z.enum(['minimum', 'linear']).default('minimum'),
  })
  .refine((p) => p.toHz > p.fromHz, {
    path: ['toHz'],
    message: 'the span ends above its beginning',
  })
  .refine((p) => p.keyToHz > p.keyFromHz, {
    path: ['keyToHz'],
    message: 'the key’s range ends above its beginning',
  })
export type DuckParams = z.infer<typeof duckParams>

export const DUCK_DEFAULTS: DuckParams = {
  law: 'heard',
  depthDb: 6,
  fineness: 3,
  attackMs: 15,
  releaseMs: 120,
  releaseByHz: true,
  fromHz: 100,
  toHz: 12_000,
  keyFromHz: 80,
  keyToHz: 16_000,
  channel: 'stereo',
  blend: 1,
  keyDb: 0,
  lookAheadMs: 0,
  phase: 'minimum',
}
