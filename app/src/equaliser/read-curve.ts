import { designBand, readFilter } from '@sober-prism/core/filters'
import type { EqBand } from '@sober-prism/core/session'

/** What bands in series do at each frequency, as the sound really passes them, in dB. */
export function readBands(
  bands: readonly EqBand[],
  hz: ArrayLike<number>,
  rateHz: number,
): Float64Array {
  const sections = bands.flatMap((band) => designBand(band, rateHz))
  const readings = readFilter({ sections, kernels: [], latency: 0 }, hz, rateHz)
  return Float64Array.from(readings, (r) => r.db)
}

/** The curve at one frequency, in dB. */
export function magnitudeAt(bands: readonly EqBand[], hz: number, rateHz: number): number {
  return readBands(bands, [hz], rateHz)[0]
}
