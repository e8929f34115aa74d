import {
  designBand,
  logFrequencies,
  type ReadableFilter,
  readFilter,
} from '@sober-prism/core/filters'
import type { EqBand } from '@sober-prism/core/session'

/** Frequencies at which curves are drawn. */
export const CURVE_HZ = logFrequencies(480)

/** What bands in series do, as the sound really passes them: designed once, drawn and read often. */
export interface BandCurve {
  /** At {@link CURVE_HZ}, in dB. */
  readonly db: Float64Array
  /** At any frequency, in dB. */
  at(hz: number): number
}

export function curveOf(bands: readonly EqBand[], rateHz: number): BandCurve {
  const sections = bands.flatMap((band) => designBand(band, rateHz))
  const filter: ReadableFilter = { sections, kernels: [], latency: 0 }
  const read = (hz: ArrayLike<number>) => readFilter(filter, hz, rateHz).map((r) => r.db)
  return { db: Float64Array.from(read(CURVE_HZ)), at: (hz) => read([hz])[0] }
}

/** One band at one frequency, in dB. */
export function curveAt(band: EqBand, hz: number, rateHz: number): number {
  const sections = designBand(band, rateHz)
  return readFilter({ sections, kernels: [], latency: 0 }, [hz], rateHz)[0].db
}
