import * as z from 'zod'
import { type AnyKind, kindOf, STAGES, TREATMENT_KINDS, type Treatment } from '../treatments'
import { DocumentError, parsedBy } from './document-error'
import { parseJson } from './eq-file'
import { MOST } from './names'

const kinds = Object.values(TREATMENT_KINDS) as unknown as AnyKind[]

const inFile = (kind: AnyKind) =>
  z.strictObject({
    kind: z.literal(kind.kind),
    stage: z.enum(STAGES).default('shape'),
    on: z.boolean().default(true),
    params: kind.file.params,
  })
const [first, ...rest] = kinds.map(inFile)

const chainFileSchema = z.strictObject({
  version: z.literal(1),
  treatments: z.array(z.discriminatedUnion('kind', [first, ...rest])).max(MOST.treatments),
})

/**
 * Reads a chain file (docs/formats.md). Strict: what does not fit is told by its path, and nothing is half-read.
 * @returns treatments in the order of their stages.
 * @throws DocumentError
 */
export function parseChainFile(text: string): Treatment[] {
  const read = parsedBy(chainFileSchema, parseJson(text, 'chain file'), 'chain file')
  const treatments = read.treatments.map(({ kind, stage, on, params }, i) => {
    const read = kindOf(kind).file.read(params)
    const common = { key: null, reason: '', evidence: null }
    return { id: `treatment-${i + 1}`, stage, kind, on, params: read, ...common } as Treatment
  })
  const order = (t: Treatment) => STAGES.indexOf(t.stage)
  const misplaced = treatments.findIndex((t, i) => i > 0 && order(t) < order(treatments[i - 1]))
  if (misplaced >= 0) {
    throw new DocumentError(
      `The chain file at treatments[${misplaced}] cannot be read: treatments stand in the order of their stages.`,
    )
  }
  return treatments
}

/** Writes treatments as a chain file; what they are keyed by, and why they were made, stays in the session. */
export function writeChainFile(treatments: readonly Treatment[]): string {
  const list = treatments.map(({ kind, stage, on, params }) => ({
    kind,
    stage,
    on,
    params: kindOf(kind).file.write(params),
  }))
  return JSON.stringify({ version: 1, treatments: list }, null, 2)
}
