import type { EqBand } from '@sober-prism/core/filters'
import { bandEdges, designBand, logFrequencies, readFilter } from '@sober-prism/core/filters'
import { respondChain, type Treatment } from '@sober-prism/core/treatments'

/** Frequencies at which curves are drawn. */
export const CURVE_HZ = logFrequencies(480)

/** What treatments in series do, as the sound really passes them: designed once, drawn and read often. */
export interface BandCurve {
  /** Where it is read: {@link CURVE_HZ}, and more closely where something narrow stands; rising. */
  readonly hz: Float64Array
  /** There, in dB. */
  readonly db: Float64Array
  /** At any frequency, in dB. */
  at(hz: number): number
}

export function curveOf(treatments: readonly Treatment[], rateHz: number): BandCurve {
  const { db } = respondChain(treatments, rateHz, 'mid')
  const hz = placesFor(treatments)
  return { hz, db: db(hz), at: (f) => db([f])[0] }
}

const [LOWEST_HZ, HIGHEST_HZ] = [CURVE_HZ[0], CURVE_HZ[CURVE_HZ.length - 1]]
/** Two places of the even ones. */
const NARROW = (CURVE_HZ[1] / CURVE_HZ[0]) ** 2
const WITHIN = 4

/** The even places, and several between the edges of what is too narrow to be met by two of them. */
export function placesFor(treatments: readonly Treatment[]): Float64Array {
  const close = treatments.flatMap((t) => {
    if (!t.on) return []
    if (t.kind === 'drawn-curve') return narrowSpans(t.params.points.map((p) => p.hz))
    if (t.kind !== 'equaliser') return []
    return t.params.bands.flatMap(({ on, band }) => {
      const edges = on ? bandEdges(band) : null
      return edges ? narrowSpans([edges.fromHz, band.hz, edges.toHz]) : []
    })
  })
  if (close.length === 0) return CURVE_HZ
  const shown = close.filter((hz) => hz > LOWEST_HZ && hz < HIGHEST_HZ)
  return Float64Array.from(new Set([...CURVE_HZ, ...shown])).sort()
}

/** Places in spans between neighbours that are nearer to each other than the even ones. */
function narrowSpans(hz: readonly number[]): number[] {
  return hz.slice(1).flatMap((to, i) => {
    const from = hz[i]
    if (to <= from || to > from * NARROW) return []
    return Array.from({ length: WITHIN + 1 }, (_, k) => from + (k * (to - from)) / WITHIN)
  })
}

/** One band at one frequency, in dB. */
export function curveAt(band: EqBand, hz: number, rateHz: number): number {
  const sections = designBand(band, rateHz)
  return readFilter({ sections, kernels: [], latency: 0 }, [hz], rateHz)[0].db
}
