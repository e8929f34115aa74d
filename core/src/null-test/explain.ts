import { type EqBand, type FilterType, magnitudeDb, newBand } from '../filters'

/** One band, and a gain, that would make one sound nearly the other. */
export interface Explanation {
  readonly band: EqBand
  readonly gainDb: number
  /** Root of the mean square of what is left of the difference, in dB. */
  readonly leftDb: number
}

interface Level {
  readonly hz: number
  readonly levelDb: number
}

const TRIED: readonly { readonly type: FilterType; readonly q: readonly number[] }[] = [
  { type: 'high-shelf', q: [Math.SQRT1_2] },
  { type: 'low-shelf', q: [Math.SQRT1_2] },
  { type: 'bell', q: [0.5, 0.7, 1, 1.4, 2, 3, 4] },
]
const TRIED_HZ = Array.from({ length: 37 }, (_, i) => 40 * 2 ** (i / 4))
const SHAPE_DB = 6
/** Bands come out alike at any rate: they are matched to their analogue models. */
const RATE_HZ = 96_000
/** A bell far out looks like a shelf: it must leave this much less than one. */
const SHELF_FIRST_DB = 0.1
/** Rounds in which the gain is brought to where least is left: shapes of shelves and bells grow a little unevenly. */
const ROUNDS = 3
/** It is one band when it leaves at most this, and at most this part of what there was, in dB rms. */
const LEAST_LEFT_DB = 0.25
const LEFT_PART = 0.3
const LEAST_BAND_DB = 0.2

/**
 * The shelf or bell that explains by what one sound stands over another, least squares over the bands given; null where
 * no one band does. @param levels over frequency, at equal ratios.
 */
export function explainLevels(levels: readonly Level[]): Explanation | null {
  if (levels.length < 6) return null
  const hz = levels.map((l) => l.hz)
  const wanted = levels.map((l) => l.levelDb)
  const before = rms(wanted.map((v) => v - mean(wanted)))
  let best: Explanation | null = null
  let least = Number.POSITIVE_INFINITY
  for (const { type, q } of TRIED) {
    for (const centre of TRIED_HZ) {
      for (const each of q) {
        const found = fitted({ ...newBand(type, centre), q: each, db: SHAPE_DB }, hz, wanted)
        if (!found) continue
        const score = found.leftDb + (type === 'bell' ? SHELF_FIRST_DB : 0)
        if (score < least) [best, least] = [found, score]
      }
    }
  }
  if (!best || Math.abs(best.band.db) < LEAST_BAND_DB) return null
  return best.leftDb <= LEAST_LEFT_DB && best.leftDb <= LEFT_PART * before ? best : null
}

/** Gain of a band, and one beside it, with which least is left. */
function fitted(
  band: EqBand,
  hz: readonly number[],
  wanted: readonly number[],
): Explanation | null {
  let now = band
  let gainDb = 0
  for (let round = 0; round < ROUNDS; round++) {
    const shape = Array.from(magnitudeDb([now], hz, RATE_HZ), (v) => v / now.db)
    const [s, w] = [mean(shape), mean(wanted)]
    let [cross, own] = [0, 0]
    shape.forEach((v, i) => {
      cross += (v - s) * (wanted[i] - w)
      own += (v - s) ** 2
    })
    if (own < 1e-9) return null
    const db = Math.max(-24, Math.min(24, cross / own))
    if (Math.abs(db) < 0.01) return null
    now = { ...now, db }
    gainDb = w - db * s
  }
  const given = magnitudeDb([now], hz, RATE_HZ)
  return { band: now, gainDb, leftDb: rms(wanted.map((v, i) => v - gainDb - given[i])) }
}

const mean = (values: readonly number[]) => values.reduce((a, b) => a + b, 0) / values.length
const rms = (values: readonly number[]) =>
  Math.sqrt(values.reduce((sum, v) => sum + v * v, 0) / values.length)
