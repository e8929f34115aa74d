import * as z from 'zod'
import { type AnyForm, kindOf, STAGES, TREATMENT_KINDS, type Treatment } from '../treatments'
import { DocumentError, parsedBy } from './document-error'
import { parseJson } from './eq-file'
import { MOST } from './names'

const kinds = Object.values(TREATMENT_KINDS) as unknown as AnyForm[]

const inFile = (kind: AnyForm) =>
  z.strictObject({
    kind: z.literal(kind.kind),
    stage: z.enum(STAGES).default('shape'),
    on: z.boolean().default(true),
    params: kind.file.params,
  })
const [first, ...rest] = kinds.map(inFile)

/** Treatments as they stand in files. */
export const fileTreatments = z
  .array(z.discriminatedUnion('kind', [first, ...rest]))
  .max(MOST.treatments)
export type FileTreatments = z.infer<typeof fileTreatments>

const chainFileSchema = z.strictObject({ version: z.literal(1), treatments: fileTreatments })

/**
 * Reads a chain file (docs/formats.md). Strict: what does not fit is told by its path, and nothing is half-read.
 * @returns treatments in the order of their stages.
 * @throws DocumentError
 */
export function parseChainFile(text: string): Treatment[] {
  const read = parsedBy(chainFileSchema, parseJson(text, 'chain file'), 'chain file')
  return readTreatments(read.treatments, 'chain file')
}

/**
 * Treatments of a file, with ids that are their places and no reasons.
 * @param what the file, as it is named in an error. @throws DocumentError when they are not in the order of their stages.
 */
export function readTreatments(list: FileTreatments, what: string): Treatment[] {
  const treatments = list.map(({ kind, stage, on, params }, i) => {
    const read = kindOf(kind).file.read(params)
    const common = { key: null, reason: '', evidence: null }
    return { id: `treatment-${i + 1}`, stage, kind, on, params: read, ...common } as Treatment
  })
  const order = (t: Treatment) => STAGES.indexOf(t.stage)
  const misplaced = treatments.findIndex((t, i) => i > 0 && order(t) < order(treatments[i - 1]))
  if (misplaced >= 0) {
    throw new DocumentError(
      `The ${what} at treatments[${misplaced}] cannot be read: treatments must be in stage order.`,
    )
  }
  return treatments
}

/** Writes treatments as a chain file; what they are keyed by, and why they were made, stays in the session. */
export function writeChainFile(treatments: readonly Treatment[]): string {
  return JSON.stringify({ version: 1, treatments: writeTreatments(treatments) }, null, 2)
}

/** Treatments as they stand in files. */
export function writeTreatments(treatments: readonly Treatment[]): FileTreatments {
  return treatments.map(({ kind, stage, on, params }) => ({
    kind,
    stage,
    on,
    params: kindOf(kind).file.write(params),
  }))
}
