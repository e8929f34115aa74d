import { sectionsDb } from './biquad'
import { designBand } from './design'
import type { EqBand } from './eq-band'

/** Magnitude of bands in series at each frequency, in dB, as the sound really passes them. */
export function magnitudeDb(
  bands: readonly EqBand[],
  hz: ArrayLike<number>,
  rateHz: number,
): Float64Array {
  const sections = bands.flatMap((band) => designBand(band, rateHz))
  return Float64Array.from(hz, (f) => sectionsDb(sections, f, rateHz))
}

/** `count` frequencies from 20 Hz to 20 kHz at equal ratios. */
export function logFrequencies(count: number): Float64Array {
  return Float64Array.from({ length: count }, (_, i) => 20 * 1000 ** (i / (count - 1)))
}
