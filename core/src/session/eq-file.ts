import * as z from 'zod'
import type { EqBand } from '../filters'
import { fileBandSchema, readFileBand, writeFileBand } from '../treatments'
import { DocumentError, parsedBy } from './document-error'

const fileSchema = z.strictObject({
  version: z.literal(1),
  bands: z.array(fileBandSchema).max(256),
})

/**
 * Reads an EQ file (docs/formats.md). Strict: an unknown version or field, a missing value or one out of
 * range is told by its path, and nothing is half-read.
 * @throws DocumentError
 */
export function parseEqFile(text: string): EqBand[] {
  return parsedBy(fileSchema, parseJson(text, 'EQ file'), 'EQ file').bands.map(readFileBand)
}

/** Writes bands as an EQ file, each with the fields its type has. */
export function writeEqFile(bands: readonly EqBand[]): string {
  return JSON.stringify({ version: 1, bands: bands.map(writeFileBand) }, null, 2)
}

/** @throws DocumentError when the text is not JSON. */
export function parseJson(text: string, what: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    throw new DocumentError(`The ${what} cannot be read: it is not JSON.`)
  }
}
