import * as z from 'zod'
import type { Normalise } from '../loudness'
import {
  itemId,
  type KindRegistry,
  MIX,
  nodeId,
  STAGES,
  TREATMENT_KINDS,
  type Treatment,
  treatmentSchemaFor,
} from '../treatments'
import { LISTENING, MOST, ROLES, SESSION_VERSION } from './names'
import { checkRouting } from './routing'

const name = z.string().max(200)
const frames = z.int().min(0)
const faderDb = z.number().min(-120).max(12)
/** A node's trim and a chain's output gain. */
const trimDb = z.number().min(-48).max(24)
const letter = z.string().min(1).max(3)

/** Schemas of what can be set of a track, a group or the mix. */
export const nodeFields = {
  name,
  letter,
  role: z.enum(ROLES),
  /** Gain ahead of the chain, for working levels: no comparison takes it away. */
  trimDb,
  faderDb,
  /** -1 left to 1 right. */
  pan: z.number().min(-1).max(1),
  mute: z.boolean(),
  solo: z.boolean(),
  /** Raise in context while listening; not part of a render. */
  lift: z.boolean(),
} as const

/** Schemas of the end of a chain. */
export const chainOutputFields = {
  gainDb: trimDb,
  polarity: z.enum(['normal', 'inverted']),
} as const

/** Treatments in the order of their stages, then output. The same on every track, group and the mix. */
export interface Chain {
  treatments: Treatment[]
  output: { gainDb: number; polarity: 'normal' | 'inverted' }
}

/** A chain with the gain ahead of it: all that a node does to its sound before its fader. */
export interface TrimmedChain extends Chain {
  readonly trimDb: number
}

/** A stretch of audio in storage, by the hash of its samples. */
const audioSchema = z.strictObject({
  hash: z.string().regex(/^[0-9a-f]{64}$/, 'a content hash has 64 hexadecimal digits'),
  channels: z.int().min(1).max(2),
  frames: z.int().min(1),
})
export type AudioRef = z.infer<typeof audioSchema>

/** Audio as it arrives, before the session gives it a place. */
export const arrivedSchema = z.strictObject({ id: itemId, name, audio: audioSchema })

export const passageSchema = z
  .strictObject({ fromFrame: frames, toFrame: frames })
  .refine((p) => p.toFrame > p.fromFrame, 'a passage ends after it begins')
export type Passage = z.infer<typeof passageSchema>

export const referenceSchema = z.strictObject({
  ...arrivedSchema.shape,
  /** What of it is listened to; null for as much of its middle as the session's passage is long. */
  passage: passageSchema.nullable(),
})
export type Reference = z.infer<typeof referenceSchema>

export const dismissedSchema = z.strictObject({
  key: z.string().max(300),
  reason: z.string().max(300),
  /** Fingerprint of the sound and the moves it was found in. */
  state: z.string().max(100),
})
export type Dismissed = z.infer<typeof dismissedSchema>

/** A passage that is kept by a name, to come back to. */
export const namedPassageSchema = z
  .strictObject({ id: itemId, name, fromFrame: frames, toFrame: frames })
  .refine((p) => p.toFrame > p.fromFrame, 'a passage ends after it begins')
export type NamedPassage = z.infer<typeof namedPassageSchema>

const dbtp = z.number().min(-30).max(0)
/** What the rendered mix is brought to. */
export const normaliseSchema: z.ZodType<Normalise> = z.discriminatedUnion('to', [
  z.strictObject({ to: z.literal('peak'), dbtp }),
  z.strictObject({ to: z.literal('loudness'), lufs: z.number().min(-40).max(-5), dbtp }),
])

const routedId = nodeId.refine((id) => id !== MIX, 'no track or group may be called "mix"')

function chainSchemaFor(kinds: KindRegistry): z.ZodType<Chain> {
  return z.strictObject({
    treatments: z.array(treatmentSchemaFor(kinds)).max(MOST.treatments).superRefine(checkOrder),
    output: z.strictObject(chainOutputFields),
  })
}

function checkOrder(treatments: readonly Treatment[], context: z.RefinementCtx): void {
  const ids = new Set<string>()
  let stage = 0
  treatments.forEach((t, index) => {
    const issue = (message: string) => context.addIssue({ code: 'custom', path: [index], message })
    if (ids.has(t.id)) issue('two treatments of one chain have the same id')
    if (STAGES.indexOf(t.stage) < stage) issue('treatments must be in stage order')
    ids.add(t.id)
    stage = Math.max(stage, STAGES.indexOf(t.stage))
  })
}

function trackSchemaFor(chain: z.ZodType<Chain>) {
  return z.strictObject({
    id: routedId,
    ...nodeFields,
    audio: audioSchema,
    /** Where the track starts on the session's time line; before zero, its beginning is cut off. */
    offsetFrames: z.int(),
    /** Where its sound goes: a group, or the mix. */
    output: nodeId,
    chain,
  })
}
export type Track = z.infer<ReturnType<typeof trackSchemaFor>>

function groupSchemaFor(chain: z.ZodType<Chain>) {
  const { role: _, ...fields } = nodeFields
  return z.strictObject({ id: routedId, ...fields, output: nodeId, chain })
}
export type Group = z.infer<ReturnType<typeof groupSchemaFor>>

/** What a variation holds of a node; its chain by its key among those that are kept. */
const keptNodeSchema = z.strictObject({
  trimDb,
  faderDb,
  pan: nodeFields.pan,
  mute: nodeFields.mute,
  output: nodeId,
  chain: itemId,
})

/** A state of the whole session but for its recordings. */
const keptStateSchema = z.strictObject({
  tracks: z.record(nodeId, keptNodeSchema),
  groups: z
    .array(z.strictObject({ id: routedId, name, letter, ...keptNodeSchema.shape }))
    .max(MOST.groups),
  mix: z.strictObject({ trimDb, faderDb, chain: itemId }),
})
export type KeptState = z.infer<typeof keptStateSchema>

/** Schemas of what can be set of a variation. */
export const variationFields = { name, note: z.string().max(2000) } as const

const variationSchema = z.strictObject({
  id: itemId,
  /** By which it is called, 1 to 9. */
  number: z.int().min(1).max(MOST.variations),
  ...variationFields,
  keptAt: z.iso.datetime(),
  /** Null for the one that is worked in: it is what stands. */
  state: keptStateSchema.nullable(),
})
export type Variation = z.infer<typeof variationSchema>

function variationsSchemaFor(chain: z.ZodType<Chain>) {
  return z
    .strictObject({
      list: z.array(variationSchema).max(MOST.variations),
      /** The chains that they hold, each once. */
      chains: z.record(itemId, chain),
    })
    .superRefine(({ list }, context) => {
      const issue = (message: string) =>
        context.addIssue({ code: 'custom', path: ['list'], message })
      for (const key of ['id', 'number'] as const) {
        if (new Set(list.map((v) => v[key])).size < list.length) {
          issue(`two variations have the same ${key}`)
        }
      }
      const worked = list.filter((v) => v.state === null).length
      if (list.length > 0 && worked !== 1) issue('one variation is worked in')
    })
}

/** One of the two states of a blind test, as it was then. */
const blindStateSchema = z.strictObject({
  /** A variation, or the session as it came. */
  id: itemId,
  name,
  /** Fingerprint of its chains, faders and ways. */
  state: z.string().max(100),
})

/** A blind test: finished, or left with fewer answers than trials. */
export const blindTestSchema = z
  .strictObject({
    id: itemId,
    kind: z.enum(['which', 'better']),
    first: blindStateSchema,
    second: blindStateSchema,
    trials: z.int().min(1).max(MOST.blindTrials),
    /** From which the order is drawn (`blindOrder`). */
    seed: z
      .int()
      .min(0)
      .max(2 ** 32 - 1),
    answers: z.array(z.enum(['first', 'second'])).max(MOST.blindTrials),
    beganAt: z.iso.datetime(),
  })
  .refine((t) => t.answers.length <= t.trials, 'a test has an answer for each trial at most')
export type BlindTest = z.infer<typeof blindTestSchema>

interface Timed {
  readonly sampleRateHz: number
  readonly tracks: readonly { offsetFrames: number; audio: { frames: number } }[]
  readonly references: readonly {
    audio: { frames: number }
    passage: { toFrame: number } | null
  }[]
  readonly passage: { toFrame: number } | null
  readonly passages: readonly { toFrame: number }[]
}

/** Where a session reaches beyond the time line that it may have. */
export function tooLong({
  sampleRateHz,
  tracks,
  references,
  passage,
  passages,
}: Timed): (string | number)[][] {
  const most = MOST.hours * 3600 * sampleRateHz
  const isOut = (from: number, frames: number) => from < -most || from + frames > most
  const paths: (string | number)[][] = []
  for (const [i, t] of tracks.entries()) {
    if (isOut(t.offsetFrames, t.audio.frames)) paths.push(['tracks', i, 'offsetFrames'])
  }
  for (const [i, r] of references.entries()) {
    if (isOut(0, r.audio.frames)) paths.push(['references', i, 'audio', 'frames'])
    if (r.passage && r.passage.toFrame > most) paths.push(['references', i, 'passage', 'toFrame'])
  }
  if (passage && passage.toFrame > most) paths.push(['passage', 'toFrame'])
  for (const [i, p] of passages.entries()) {
    if (p.toFrame > most) paths.push(['passages', i, 'toFrame'])
  }
  return paths
}

/** The schema of a session whose chains hold the kinds of a registry. */
export function sessionSchemaFor(kinds: KindRegistry) {
  const chain = chainSchemaFor(kinds)
  return z
    .strictObject({
      version: z.literal(SESSION_VERSION),
      id: itemId,
      name,
      createdAt: z.iso.datetime(),
      sampleRateHz: z.int().min(8000).max(384000),
      tracks: z.array(trackSchemaFor(chain)).max(MOST.tracks),
      groups: z.array(groupSchemaFor(chain)).max(MOST.groups),
      mix: z.strictObject({ trimDb, faderDb, chain }),
      references: z.array(referenceSchema).max(MOST.references),
      passage: passageSchema.nullable(),
      /** Saved passages. */
      passages: z.array(namedPassageSchema).max(MOST.passages),
      loop: z.boolean(),
      /** What the rendered mix is brought to; null leaves it as it is. */
      normalise: normaliseSchema.nullable(),
      /** Time of day at frame 0, from the first time-stamped file; seconds since midnight. */
      timeOriginSeconds: z.number().min(0).max(86_400).nullable(),
      /** The tracks that the others make room for. */
      leadIds: z.array(nodeId).max(MOST.leads),
      /** Level at which -23 LUFS is heard; what is masked depends on it. */
      listeningDbSpl: z.number().min(55).max(90),
      /** What is listened with: over loudspeakers each ear hears both sides. */
      listening: z.enum(LISTENING),
      /** Findings that are to stay away until the sound they were found in changes. */
      dismissed: z.array(dismissedSchema).max(MOST.dismissed),
      /** States of the session that are kept to be compared, and gone on with. */
      variations: variationsSchemaFor(chain),
      /** Blind tests between them, in the order in which they were begun. */
      blindTests: z.array(blindTestSchema).max(MOST.blindTests),
    })
    .superRefine((session, context) => {
      for (const path of tooLong(session)) {
        const message = `a session can hold up to ${MOST.hours} hours`
        context.addIssue({ code: 'custom', path: [...path], message })
      }
      for (const { path, message } of checkRouting(session)) {
        context.addIssue({ code: 'custom', path: [...path], message })
      }
    })
}

/** The whole session: the one source of truth of the app, saved as `session.json` in a `.prism` file. */
export const sessionSchema = sessionSchemaFor(TREATMENT_KINDS as KindRegistry)
export type Session = z.infer<typeof sessionSchema>

/** What can be routed: everything but the mix. */
export type Routed = Track | Group
