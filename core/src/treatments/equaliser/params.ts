import * as z from 'zod'
import { type EqBand, eqBandSchema, PHASE_NAMES } from '../../filters'
import { evidenceSchema, itemId, reason } from '../evidence'

/** A band on the equaliser sheet, with the reason it was made. */
export const markSchema = z.strictObject({
  id: itemId,
  on: z.boolean(),
  band: eqBandSchema,
  reason,
  evidence: evidenceSchema,
})
export type Mark = z.infer<typeof markSchema>

/** Bands that one equaliser holds. */
export const MOST_BANDS = 256

export const equaliserParams = z.strictObject({
  /** How this equaliser treats phase (see `planPhase`). */
  phase: z.enum(PHASE_NAMES),
  bands: z
    .array(markSchema)
    .max(MOST_BANDS)
    .refine(
      (bands) => new Set(bands.map((b) => b.id)).size === bands.length,
      'two bands of one equaliser have the same id',
    ),
})
export type EqualiserParams = z.infer<typeof equaliserParams>

/** A mark that is on, without a reason. */
export function newMark(id: string, band: EqBand): Mark {
  return { id, on: true, band, reason: '', evidence: null }
}

/** The marks that sound. */
export function activeMarks({ bands }: EqualiserParams): Mark[] {
  return bands.filter((b) => b.on)
}
