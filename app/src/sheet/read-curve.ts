import type { EqBand } from '@sober-prism/core/filters'
import { designBand, logFrequencies, readFilter } from '@sober-prism/core/filters'
import { respondChain, type Treatment } from '@sober-prism/core/treatments'

/** Frequencies at which curves are drawn. */
export const CURVE_HZ = logFrequencies(480)

/** What treatments in series do, as the sound really passes them: designed once, drawn and read often. */
export interface BandCurve {
  /** At {@link CURVE_HZ}, in dB. */
  readonly db: Float64Array
  /** At any frequency, in dB. */
  at(hz: number): number
}

export function curveOf(treatments: readonly Treatment[], rateHz: number): BandCurve {
  const { db } = respondChain(treatments, rateHz, 'mid')
  return { db: db(CURVE_HZ), at: (hz) => db([hz])[0] }
}

/** One band at one frequency, in dB. */
export function curveAt(band: EqBand, hz: number, rateHz: number): number {
  const sections = designBand(band, rateHz)
  return readFilter({ sections, kernels: [], latency: 0 }, [hz], rateHz)[0].db
}
