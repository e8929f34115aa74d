import * as z from 'zod'
import { evidenceSchema, itemId, type MoveEvidence, nodeId, reason } from './evidence'
import type { AnyForm } from './kind'
import { type KindName, type KindRegistry, type ParamsOf, TREATMENT_KINDS } from './registry'

/** The stages of a chain, in the order in which sound passes them. */
export const STAGES = ['clean', 'fit', 'shape'] as const
export type StageName = (typeof STAGES)[number]

/** What a treatment listens to besides its own sound. */
export const keySchema = z.strictObject({
  node: nodeId,
  /** Before the node's fader, pan and mute, or after them. Solo and lift never count. */
  tap: z.enum(['before-fader', 'after-fader']),
  /** Summed to one channel, or middle and sides as two. */
  as: z.enum(['mono', 'mid-side']),
})
export type Key = z.infer<typeof keySchema>

interface TreatmentOf<K extends KindName> {
  id: string
  stage: StageName
  kind: K
  on: boolean
  params: ParamsOf<K>
  /** Null where the kind takes none, or where nothing is listened to. */
  key: Key | null
  reason: string
  evidence: MoveEvidence
}
/** One treatment of a chain. */
export type Treatment = { [K in KindName]: TreatmentOf<K> }[KindName]

/** The schema of a treatment of any kind in a registry. */
export function treatmentSchemaFor(kinds: KindRegistry): z.ZodType<Treatment> {
  const [first, ...rest] = Object.values(kinds).map(schemaOf)
  return z.discriminatedUnion('kind', [first, ...rest]) as unknown as z.ZodType<Treatment>
}

function schemaOf(kind: AnyForm) {
  return z.strictObject({
    id: itemId,
    stage: z.enum(STAGES),
    kind: z.literal(kind.kind),
    on: z.boolean(),
    params: kind.params,
    key: kind.takesKey ? keySchema.nullable() : z.null('this kind of treatment takes no key'),
    reason,
    evidence: evidenceSchema,
  })
}

export const treatmentSchema = treatmentSchemaFor(TREATMENT_KINDS as KindRegistry)

/** A treatment that is on, with the values its kind begins with. */
export function newTreatment<K extends KindName>(
  kind: K,
  id: string,
  stage: StageName,
  params: ParamsOf<K> = TREATMENT_KINDS[kind].defaults() as ParamsOf<K>,
): Extract<Treatment, { kind: K }> {
  const made: TreatmentOf<K> = {
    id,
    stage,
    kind,
    on: true,
    params,
    key: null,
    reason: '',
    evidence: null,
  }
  return made as unknown as Extract<Treatment, { kind: K }>
}

/** Where a treatment of a stage stands that comes last in it. */
export function endOfStage(treatments: readonly { stage: StageName }[], stage: StageName): number {
  const order = STAGES.indexOf(stage)
  const at = treatments.findIndex((t) => STAGES.indexOf(t.stage) > order)
  return at < 0 ? treatments.length : at
}
