import { staticGainDb } from '../../dynamics'
import { type EqBand, newBand } from '../../filters'
import { FILTER_COUNT, FILTER_HZ, type HeardMoments, type MaskingTrack } from '../../hearing'
import { bandPowerGains } from '../band-gains'
import { UNDER_USUAL_DB } from './propose-follow'

/** Moments this far under the key's loudest are pauses. */
const PAUSE_DB = 25
const KNEE_DB = 6
/** Gains are drawn in steps of this. */
const STEP_DB = 0.25

/**
 * What is heard of a track while a band on it follows a key: at each moment the gain that the key's level in the band
 * asks for. Times of attack and release are left out, for moments are listened to one by one.
 * @param bell where the band stands and the most that it does.
 */
export function followedMoments(
  { heard }: MaskingTrack,
  key: MaskingTrack,
  bell: EqBand,
  sampleRateHz: number,
): HeardMoments {
  const levels = keyLevels(key, bell)
  const curve = {
    thresholdDb: usualDb(levels, key.heard.moments.seconds) + UNDER_USUAL_DB,
    ratio: null,
    kneeDb: KNEE_DB,
    rangeDb: bell.db,
  }
  const known = new Map<number, Float64Array>()
  const gainsAt = (level: number) => {
    const step = Math.round(staticGainDb(level, curve) / STEP_DB)
    const made =
      known.get(step) ??
      bandPowerGains(
        [{ ...newBand('bell', bell.hz), q: bell.q, db: step * STEP_DB }],
        'mid',
        sampleRateHz,
      )
    known.set(step, made)
    return made
  }
  const gains = Array.from(levels, gainsAt)
  const drawn = (values: Float32Array) =>
    values.map((v, i) => v * gains[Math.floor(i / FILTER_COUNT)][i % FILTER_COUNT])
  return {
    ...heard,
    mid: drawn(heard.mid),
    side: heard.side && drawn(heard.side),
    cross: heard.cross && drawn(heard.cross),
    past: drawn(heard.past),
  }
}

/** The key's level in the band, moment by moment, in dB. */
function keyLevels({ heard, gainDb }: MaskingTrack, { hz, q }: EqBand): Float64Array {
  const half = Math.exp(Math.asinh(1 / (2 * q)))
  const inside = Array.from(FILTER_HZ, (f) => f > hz / half && f < hz * half)
  return Float64Array.from({ length: heard.moments.at.length }, (_, m) => {
    let power = 0
    for (let b = 0; b < FILTER_COUNT; b++) {
      const at = m * FILTER_COUNT + b
      if (inside[b]) power += heard.mid[at] + (heard.side ? heard.side[at] : 0)
    }
    return gainDb + 10 * Math.log10(power + 1e-15)
  })
}

/** The level that a key has where it sounds. */
function usualDb(levels: Float64Array, seconds: Float64Array): number {
  const loudest = levels.reduce((a, v) => Math.max(a, v), -300)
  let [sum, time] = [0, 0]
  levels.forEach((db, m) => {
    if (db <= loudest - PAUSE_DB) return
    sum += db * seconds[m]
    time += seconds[m]
  })
  return time > 0 ? sum / time : 0
}
