import { magnitudeDb } from '@sober-prism/core/filters'
import type { EqBand } from '@sober-prism/core/session'

/** The curve at one frequency, in dB. */
export function magnitudeAt(bands: readonly EqBand[], hz: number, rateHz: number): number {
  return magnitudeDb(bands, [hz], rateHz)[0]
}
