import type { Features } from './features'
import { CELLS } from './level-grid'
import { BELL_QS, fitBell } from './operators'
import type { BellReading } from './ring-model'

/** Features that say something of a ring's height or width beyond the bells that fit the mean level. */
const FEATURES = ['peakMean', 'peakHigh', 'floor3', 'q90', 'softT', 'octave'] as const

/**
 * What stands at a cell, to tell a ring's height and width from: height and fit of bells of three widths in the mean
 * level, partials against the partials around them, the floor between partials.
 */
export function bellReadings(features: Features, mean: Float64Array, cell: number): Float64Array {
  const c = Math.max(0, Math.min(CELLS - 1, Math.round(cell)))
  const fits = BELL_QS.flatMap((q) => {
    const { db, t } = fitBell(mean, q)
    return [db[c], t[c]]
  })
  return Float64Array.from([...fits, ...FEATURES.map((name) => features.get(name)?.[c] ?? 0)])
}

/** The figure that a reading foretells. */
export function readingOf({ intercept, coefficients, bounds }: BellReading, row: Float64Array) {
  return coefficients.reduce((sum, slope, i) => {
    const [lowest, highest] = bounds[i]
    return sum + slope * Math.max(lowest, Math.min(highest, row[i]))
  }, intercept)
}
