import * as z from 'zod'
import { BUTTERWORTH_Q, bandFields, type EqBand, hasGain, hasSlope } from '../../filters'

const { hz, db, q, slopeDbPerOct, channel } = bandFields
const place = { hz, channel: channel.default('stereo') }

/** One band as EQ and chain files have it: with the fields that its type has (docs/formats.md). */
export const fileBandSchema = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('bell'), ...place, db, q }),
  z.strictObject({ type: z.literal(['low-shelf', 'high-shelf']), ...place, db, q: q.optional() }),
  z.strictObject({ type: z.literal('tilt'), ...place, db }),
  z.strictObject({
    type: z.literal(['low-cut', 'high-cut']),
    ...place,
    slopeDbPerOct,
    q: q.optional(),
  }),
  z.strictObject({ type: z.literal(['notch', 'band-pass']), ...place, q }),
  z.strictObject({
    type: z.literal('all-pass'),
    ...place,
    q: q.optional(),
    order: z.literal([1, 2]).default(2),
  }),
])
export type FileBand = z.infer<typeof fileBandSchema>

/** A band with every field, from one in a file. */
export function readFileBand(band: FileBand): EqBand {
  const q = ('q' in band && band.q) || BUTTERWORTH_Q
  if (band.type !== 'all-pass') return { db: 0, slopeDbPerOct: 12, ...band, q }
  const { order, ...rest } = band
  return { db: 0, slopeDbPerOct: 6 * order, ...rest, q }
}

/** The fields that a band's type has. */
export function writeFileBand(band: EqBand): FileBand {
  return {
    type: band.type,
    hz: band.hz,
    ...(hasGain(band.type) && { db: band.db }),
    ...(band.type !== 'tilt' && { q: band.q }),
    ...(band.type === 'all-pass' && { order: band.slopeDbPerOct === 6 ? 1 : 2 }),
    ...(hasSlope(band.type) && { slopeDbPerOct: band.slopeDbPerOct }),
    channel: band.channel,
  } as FileBand
}
