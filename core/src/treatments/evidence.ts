import * as z from 'zod'

/** The id of a track, a group, or {@link MIX}. */
export const nodeId = z.string().min(1).max(64)
/** The node that everything flows into; no track or group may take this id. */
export const MIX = 'mix'

/** What is told of a hum where there is none, in dB. */
export const NO_HUM_DB = -120

/** A figure that a finding's move was to change; nodes by id. */
const measureSchema = z.discriminatedUnion('of', [
  /** Share of a track's loudness that survives in the mix, 0 to 1. */
  z.strictObject({ of: z.literal('heard'), track: nodeId }),
  /** Level of a stretch of a node's spectrum, in dB against the level beside it or of the whole. */
  z.strictObject({
    of: z.literal('level'),
    track: nodeId,
    fromHz: z.number().positive(),
    toHz: z.number().positive(),
    against: z.enum(['beside', 'whole']),
  }),
  /** Share of the power below a frequency that lies in the sides, 0 to 1. */
  z.strictObject({ of: z.literal('sides'), track: nodeId, belowHz: z.number().positive() }),
  /** Level below a frequency in the sum to mono, in dB against the whole track. */
  z.strictObject({ of: z.literal('low-in-mono'), track: nodeId, belowHz: z.number().positive() }),
  /** Speech Intelligibility Index of a voice beside all others, 0 to 1. */
  z.strictObject({ of: z.literal('understood'), track: nodeId }),
  /** Level of the lines of a hum, in dB against the whole track; {@link NO_HUM_DB} where there is none. */
  z.strictObject({ of: z.literal('hum'), track: nodeId }),
  /** Energy that two tracks lose in their sum, in dB; 0 when they add as if unrelated or better. */
  z.strictObject({ of: z.literal('cancelled'), tracks: z.tuple([nodeId, nodeId]) }),
])
export type Measure = z.infer<typeof measureSchema>

/** What the model predicted when a finding proposed a move. */
export const evidenceSchema = z
  .strictObject({
    findingKey: z.string().max(300),
    measure: measureSchema,
    before: z.number(),
    predicted: z.number(),
  })
  .nullable()
export type MoveEvidence = z.infer<typeof evidenceSchema>

export const itemId = z.string().min(1).max(64)
export const reason = z.string().max(500)
