import * as z from 'zod'
import {
  BAND_LIMITS,
  BUTTERWORTH_Q,
  CHANNEL_MODES,
  FILTER_TYPES,
  type FilterType,
} from './band-names'

// Code made at run time would need a laxer content policy in the browser.
z.config({ jitless: true })

const within = ([low, high]: readonly [number, number]) => z.number().min(low).max(high)

/** Schemas of a band's single values. */
export const bandFields = {
  hz: within(BAND_LIMITS.hz),
  db: within(BAND_LIMITS.db),
  q: within(BAND_LIMITS.q),
  slopeDbPerOct: within(BAND_LIMITS.slopeDbPerOct).multipleOf(6),
  channel: z.enum(CHANNEL_MODES),
} as const

/**
 * One band of an equaliser. Every field is always there, so that changing the type keeps the rest;
 * `db` counts for bell, shelves and tilt, `slopeDbPerOct` for cuts.
 */
export const eqBandSchema = z.strictObject({
  type: z.enum(FILTER_TYPES),
  ...bandFields,
})
export type EqBand = z.infer<typeof eqBandSchema>

/** A band of a type with the values one would start from. */
export function newBand(type: FilterType, hz: number): EqBand {
  const shelfOrCut = type !== 'bell' && type !== 'notch' && type !== 'band-pass'
  return {
    type,
    hz,
    db: 0,
    q: shelfOrCut ? BUTTERWORTH_Q : 1.4,
    slopeDbPerOct: 12,
    channel: 'stereo',
  }
}
