import { z } from 'zod'
import { DocumentError, describeIssue } from './document-error'
import { bandFields, type EqBand } from './eq-band'
import { BUTTERWORTH_Q, hasGain, hasSlope } from './names'

const { hz, db, q, slopeDbPerOct, channel } = bandFields
const place = { hz, channel: channel.default('stereo') }

const fileBandSchema = z.discriminatedUnion('type', [
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
  const parsed = fileSchema.safeParse(parseJson(text, 'EQ file'))
  if (!parsed.success) throw describeIssue(parsed.error, 'EQ file')
  return parsed.data.bands.map((band) => {
    const q = ('q' in band && band.q) || BUTTERWORTH_Q
    if (band.type !== 'all-pass') return { db: 0, slopeDbPerOct: 12, ...band, q }
    const { order, ...rest } = band
    return { db: 0, slopeDbPerOct: 6 * order, ...rest, q }
  })
}

/** Writes bands as an EQ file, each with the fields its type has. */
export function writeEqFile(bands: readonly EqBand[]): string {
  return JSON.stringify({ version: 1, bands: bands.map(fileBand) }, null, 2)
}

function fileBand(band: EqBand): Record<string, unknown> {
  return {
    type: band.type,
    hz: band.hz,
    ...(hasGain(band.type) && { db: band.db }),
    ...(band.type !== 'tilt' && { q: band.q }),
    ...(band.type === 'all-pass' && { order: band.slopeDbPerOct === 6 ? 1 : 2 }),
    ...(hasSlope(band.type) && { slopeDbPerOct: band.slopeDbPerOct }),
    channel: band.channel,
  }
}

/** @throws DocumentError when the text is not JSON. */
export function parseJson(text: string, what: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    throw new DocumentError(`The ${what} cannot be read: it is not JSON.`)
  }
}
