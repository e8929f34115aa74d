import * as z from 'zod'
import { type EqBand, eqBandSchema, PHASE_NAMES } from '../../filters'
import { evidenceSchema, itemId, reason } from '../evidence'

/** A band of an equaliser in a chain: its figures, whether it is on, and the reason it was made. */
export const chainBandSchema = z.strictObject({
  id: itemId,
  on: z.boolean(),
  band: eqBandSchema,
  reason,
  evidence: evidenceSchema,
})
export type ChainBand = z.infer<typeof chainBandSchema>

/** Bands that one equaliser holds. */
export const MOST_BANDS = 256

export const equaliserParams = z.strictObject({
  /** How this equaliser treats phase (see `planPhase`). */
  phase: z.enum(PHASE_NAMES),
  bands: z
    .array(chainBandSchema)
    .max(MOST_BANDS)
    .refine(
      (bands) => new Set(bands.map((b) => b.id)).size === bands.length,
      'two bands of one equaliser have the same id',
    ),
})
export type EqualiserParams = z.infer<typeof equaliserParams>

/** A band that is on, without a reason. */
export function newChainBand(id: string, band: EqBand): ChainBand {
  return { id, on: true, band, reason: '', evidence: null }
}

/** The bands that sound. */
export function activeBands({ bands }: EqualiserParams): ChainBand[] {
  return bands.filter((b) => b.on)
}
