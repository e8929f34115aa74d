import * as z from 'zod'
import { eqBandSchema } from '../filters'
import {
  chainBandSchema,
  evidenceSchema,
  itemId,
  keySchema,
  nodeId,
  reason,
  STAGES,
  treatmentSchema,
} from '../treatments'
import { LISTENING } from './names'
import {
  arrivedSchema,
  blindTestSchema,
  chainOutputFields,
  dismissedSchema,
  namedPassageSchema,
  nodeFields,
  normaliseSchema,
  passageSchema,
  referenceSchema,
  variationFields,
} from './schema'

/** Audio that arrived and becomes a track. */
const arrivalSchema = z.strictObject({
  ...arrivedSchema.shape,
  role: nodeFields.role,
  /** Seconds since midnight at its first frame; null without a time stamp. */
  timeStampSeconds: z.number().min(0).nullable(),
})
export type Arrival = z.infer<typeof arrivalSchema>

const node = nodeId
const treatment = itemId
const stage = z.enum(STAGES)

/** Everything that can be done to a session. Findings, plans, hands, presets and commands all speak it. */
export const editSchema = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('set-session'),
    change: z
      .strictObject({
        name: nodeFields.name,
        passage: passageSchema.nullable(),
        loop: z.boolean(),
        normalise: normaliseSchema.nullable(),
        listeningDbSpl: z.number().min(55).max(90),
        listening: z.enum(LISTENING),
        /** Taken only while there is no audio. */
        sampleRateHz: z.int().min(8000).max(384000),
      })
      .partial(),
  }),
  z.strictObject({ kind: z.literal('add-tracks'), tracks: z.array(arrivalSchema) }),
  z.strictObject({ kind: z.literal('add-references'), references: z.array(arrivedSchema) }),
  z.strictObject({
    kind: z.literal('set-reference'),
    reference: itemId,
    change: referenceSchema.pick({ name: true, passage: true }).partial(),
  }),
  z.strictObject({ kind: z.literal('remove-reference'), reference: itemId }),
  z.strictObject({ kind: z.literal('add-passage'), passage: namedPassageSchema }),
  z.strictObject({
    kind: z.literal('name-passage'),
    passage: itemId,
    name: nodeFields.name,
  }),
  z.strictObject({ kind: z.literal('remove-passage'), passage: itemId }),
  z.strictObject({
    kind: z.literal('add-group'),
    id: itemId,
    name: nodeFields.name,
    /** The nodes that are to go into it; it goes where the first of them went. */
    members: z.array(node),
  }),
  /** Removes a track or group. What went into a group goes where the group went. */
  z.strictObject({ kind: z.literal('remove-node'), node }),
  z.strictObject({
    kind: z.literal('set-node'),
    node,
    change: z.strictObject(nodeFields).partial(),
  }),
  z.strictObject({ kind: z.literal('set-output'), node, output: node }),
  z.strictObject({ kind: z.literal('order-track'), track: node, to: z.int() }),
  z.strictObject({ kind: z.literal('set-lead'), track: node, lead: z.boolean() }),
  z.strictObject({
    kind: z.literal('set-chain-output'),
    node,
    change: z.strictObject(chainOutputFields).partial(),
  }),
  /** Raises or lowers the output of a chain by so much, held within its range. */
  z.strictObject({ kind: z.literal('change-output-gain'), node, db: z.number().min(-72).max(72) }),
  /** The same of a node's trim, ahead of its chain. */
  z.strictObject({ kind: z.literal('change-trim'), node, db: z.number().min(-72).max(72) }),
  /** Adds a treatment before another of its stage, or at the stage's end. */
  z.strictObject({
    kind: z.literal('add-treatment'),
    node,
    treatment: treatmentSchema,
    before: itemId.nullable(),
  }),
  z.strictObject({
    kind: z.literal('set-treatment'),
    node,
    treatment,
    change: z
      .strictObject({
        on: z.boolean(),
        reason,
        key: keySchema.nullable(),
        /** All values of the kind, as its schema has them. */
        params: z.unknown(),
      })
      .partial(),
  }),
  z.strictObject({
    kind: z.literal('move-treatment'),
    node,
    treatment,
    stage,
    before: itemId.nullable(),
  }),
  z.strictObject({ kind: z.literal('remove-treatment'), node, treatment }),
  /** Adds a band to an equaliser, or to the stage's last one; `newTreatment` names one that is made for it. */
  z.strictObject({
    kind: z.literal('add-band'),
    node,
    stage,
    treatment: itemId.nullable(),
    newTreatment: itemId,
    chainBand: chainBandSchema,
  }),
  z.strictObject({
    kind: z.literal('set-band'),
    node,
    treatment,
    band: itemId,
    change: z
      .strictObject({ on: z.boolean(), reason, evidence: evidenceSchema })
      .extend({ band: eqBandSchema.partial() })
      .partial(),
  }),
  z.strictObject({ kind: z.literal('remove-band'), node, treatment, band: itemId }),
  /** Keeps what stands as a new variation, in which work goes on. */
  z.strictObject({
    kind: z.literal('keep-variation'),
    id: itemId,
    name: nodeFields.name,
    keptAt: z.iso.datetime(),
  }),
  /** Goes on in another variation. */
  z.strictObject({ kind: z.literal('work-in-variation'), variation: itemId }),
  z.strictObject({
    kind: z.literal('set-variation'),
    variation: itemId,
    change: z.strictObject(variationFields).partial(),
  }),
  /** Removes one that is not worked in. */
  z.strictObject({ kind: z.literal('remove-variation'), variation: itemId }),
  /** Brings one node to what it is in another variation, or as it came. */
  z.strictObject({ kind: z.literal('take-from-variation'), variation: itemId, node }),
  /** Keeps a blind test, or more of its answers: those that were given stay. */
  z.strictObject({ kind: z.literal('keep-blind-test'), test: blindTestSchema }),
  z.strictObject({ kind: z.literal('remove-blind-test'), test: itemId }),
  z.strictObject({ kind: z.literal('dismiss'), dismissed: dismissedSchema }),
  z.strictObject({ kind: z.literal('recall-dismissed') }),
])
export type Edit = z.infer<typeof editSchema>
export type EditOf<K extends Edit['kind']> = Extract<Edit, { kind: K }>

/** What is put down with an edit that makes something, when it is made. */
export interface MoveNote {
  readonly reason: string
  readonly evidence: z.infer<typeof evidenceSchema>
}

/** Proposed edits with identities of their own and the reason they are made for, ready to be applied. */
export function withIdentities(
  edits: readonly Edit[],
  newId: () => string,
  note: (edit: Edit) => MoveNote = () => ({ reason: '', evidence: null }),
): Edit[] {
  return edits.map((edit) => {
    switch (edit.kind) {
      case 'add-band':
        return {
          ...edit,
          newTreatment: newId(),
          chainBand: { ...edit.chainBand, id: newId(), ...note(edit) },
        }
      case 'add-treatment':
        return { ...edit, treatment: { ...edit.treatment, id: newId(), ...note(edit) } }
      default:
        return edit
    }
  })
}
