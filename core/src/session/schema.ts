import { z } from 'zod'
import { eqBandSchema } from './eq-band'
import { PHASE_NAMES, ROLES, SESSION_VERSION } from './names'

const id = z.string().min(1).max(64)
const name = z.string().max(200)
const frames = z.int().min(0)
const faderDb = z.number().min(-120).max(12)

/** A figure that a finding's move was to change; tracks by id, `mix` for the mix. */
const measureSchema = z.discriminatedUnion('of', [
  z.strictObject({ of: z.literal('heard'), track: id }),
  z.strictObject({
    of: z.literal('level'),
    track: id,
    fromHz: z.number().positive(),
    toHz: z.number().positive(),
    against: z.enum(['beside', 'whole']),
  }),
  z.strictObject({ of: z.literal('sides'), track: id, belowHz: z.number().positive() }),
  z.strictObject({ of: z.literal('cancelled'), tracks: z.tuple([id, id]) }),
])
export type MoveMeasure = z.infer<typeof measureSchema>

/** One change to the sound of a track or the mix, with the reason it was made. */
export const moveSchema = z.strictObject({
  id,
  on: z.boolean(),
  band: eqBandSchema,
  reason: z.string().max(500),
  /** What the model predicted and then measured, when a finding proposed the move. */
  evidence: z
    .strictObject({
      findingKey: z.string().max(300),
      measure: measureSchema,
      before: z.number(),
      predicted: z.number(),
    })
    .nullable(),
})
export type Move = z.infer<typeof moveSchema>

const stageSchema = z.strictObject({ on: z.boolean(), moves: z.array(moveSchema).max(256) })

/** A chain: Clean → Fit → Shape → Output. The same on every track and on the mix. */
export const chainSchema = z.strictObject({
  clean: stageSchema,
  fit: stageSchema,
  shape: stageSchema,
  /** How all equalisers of the chain treat phase. */
  phase: z.enum(PHASE_NAMES),
  output: z.strictObject({
    trimDb: z.number().min(-48).max(24),
    polarity: z.enum(['normal', 'inverted']),
  }),
})
export type Chain = z.infer<typeof chainSchema>

/** A stretch of audio in storage, by the hash of its samples. */
const audioSchema = z.strictObject({
  hash: z.string().regex(/^[0-9a-f]{64}$/, 'a content hash has 64 hexadecimal digits'),
  channels: z.int().min(1).max(2),
  frames: z.int().min(1),
})
export type AudioRef = z.infer<typeof audioSchema>

export const trackSchema = z.strictObject({
  id,
  name,
  role: z.enum(ROLES),
  letter: z.string().min(1).max(3),
  audio: audioSchema,
  /** Where the track starts on the session's time line; before zero, its beginning is cut off. */
  offsetFrames: z.int(),
  faderDb,
  /** -1 left to 1 right. */
  pan: z.number().min(-1).max(1),
  mute: z.boolean(),
  solo: z.boolean(),
  /** Raise in context while listening; not part of a render. */
  lift: z.boolean(),
  chain: chainSchema,
})
export type Track = z.infer<typeof trackSchema>

export const referenceSchema = z.strictObject({ id, name, audio: audioSchema })
export type Reference = z.infer<typeof referenceSchema>

const dismissedSchema = z.strictObject({
  key: z.string().max(300),
  reason: z.string().max(300),
  /** Fingerprint of the sound and the moves it was found in. */
  state: z.string().max(100),
})
export type Dismissed = z.infer<typeof dismissedSchema>

const passageSchema = z
  .strictObject({ fromFrame: frames, toFrame: frames })
  .refine((p) => p.toFrame > p.fromFrame, 'a passage ends after it begins')
export type Passage = z.infer<typeof passageSchema>

/** The whole session: the one source of truth of the app, saved as `session.json` in a `.prism` file. */
export const sessionSchema = z
  .strictObject({
    version: z.literal(SESSION_VERSION),
    id,
    name,
    createdAt: z.iso.datetime(),
    sampleRateHz: z.int().min(8000).max(384000),
    tracks: z.array(trackSchema).max(200),
    mix: z.strictObject({ faderDb, chain: chainSchema }),
    references: z.array(referenceSchema).max(50),
    passage: passageSchema.nullable(),
    loop: z.boolean(),
    /** Time of day at frame 0, from the first time-stamped file; seconds since midnight. */
    timeOriginSeconds: z.number().min(0).nullable(),
    /** The tracks that the others make room for. */
    leadIds: z.array(id).max(20),
    /** Level at which -23 LUFS is heard; what is masked depends on it. */
    listeningDbSpl: z.number().min(55).max(90),
    /** Findings that are to stay away until the sound they were found in changes. */
    dismissed: z.array(dismissedSchema).max(2000),
  })
  .superRefine((session, context) => {
    const ids = new Set<string>()
    session.tracks.forEach((track, index) => {
      if (ids.has(track.id)) {
        context.addIssue({
          code: 'custom',
          path: ['tracks', index, 'id'],
          message: 'two tracks have the same id',
        })
      }
      ids.add(track.id)
    })
    session.leadIds.forEach((leadId, index) => {
      if (ids.has(leadId)) return
      const path = ['leadIds', index]
      context.addIssue({ code: 'custom', path, message: 'no track has this id' })
    })
  })
export type Session = z.infer<typeof sessionSchema>
