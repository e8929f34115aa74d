import { type EqBand, magnitudeDb } from '../../filters'
import { FILTER_COUNT, FILTER_HZ } from '../../hearing'

/** Moves on one track, and places that are tried, stand at least so far apart. */
const APART_OCTAVES = 0.5
const PLACES_APART = 1
/** No cut, and no curve of several, is deeper than this, in dB. */
const DEEPEST_DB = 6
/** No boost, and no curve of several, is higher. */
const HIGHEST_DB = 3
/** Beyond this depth neither is wider than two octaves; for a bell that is Q 0.67. */
const WIDE_CUT_DB = 3
const WIDEST_OCTAVES = 2
const NARROWEST_WIDE_Q = 0.67
/** ... and none wider than an octave and a half is deeper than this: it would be heard as a hole. */
const DEEP_CUT_DB = 4.5
const NARROWEST_DEEP_Q = 0.95

const TWELFTHS_HZ = Float64Array.from({ length: 121 }, (_, i) => 20 * 2 ** (i / 12))

/**
 * Whether a band would be too much for a track on top of those before it: no cut is both deep and wide, nor is what
 * several make together; and none stands at the place of another.
 */
export function isTooMuch(before: readonly EqBand[], band: EqBand, sampleRateHz: number): boolean {
  if (band.db < -WIDE_CUT_DB && band.q < NARROWEST_WIDE_Q) return true
  if (band.db < -DEEP_CUT_DB && band.q < NARROWEST_DEEP_Q) return true
  if (before.some((b) => Math.abs(Math.log2(b.hz / band.hz)) < APART_OCTAVES)) return true
  const curve = magnitudeDb([...before, band], TWELFTHS_HZ, sampleRateHz)
  const deep = curve.filter((db) => db < -WIDE_CUT_DB).length
  const isBeyond = curve.some((db) => db < -DEEPEST_DB - 0.1 || db > HIGHEST_DB + 0.1)
  return isBeyond || deep > 12 * WIDEST_OCTAVES + 1
}

/** Where a bell of a width takes in most of a loss, and where most of what is lost away from there. */
export function bestPlaces(lost: Float64Array, q: number, most: number): number[] {
  const left = lost.slice()
  const places: number[] = []
  while (places.length < most && left.some((v) => v > 0)) {
    const place = bestPlace(left, q)
    places.push(place)
    FILTER_HZ.forEach((hz, b) => {
      if (Math.abs(Math.log2(hz / place)) < PLACES_APART) left[b] = 0
    })
  }
  return places
}

/** Where a bell of a width takes in most of a loss: Gaussian weight over octaves. */
function bestPlace(lost: Float64Array, q: number): number {
  const octaves = 0.6 / q
  let best = 0
  let most = -1
  for (let c = 0; c < FILTER_COUNT; c++) {
    let sum = 0
    for (let b = 0; b < FILTER_COUNT; b++) {
      const away = Math.log2(FILTER_HZ[b] / FILTER_HZ[c]) / octaves
      if (Math.abs(away) < 3) sum += lost[b] * Math.exp(-0.5 * away * away)
    }
    if (sum > most) {
      most = sum
      best = c
    }
  }
  return FILTER_HZ[best]
}
