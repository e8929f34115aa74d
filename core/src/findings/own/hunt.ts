import { magnitudeDb, newBand } from '../../filters'
import { bandEdgeHz, FILTER_COUNT, FILTER_HZ, type HearingBands } from '../../hearing'
import { kWeightingDb } from '../../loudness'

/** Hunting a ring by ear: how far a boost goes, and by how much it may make the sound louder. */
export const HUNT = { mostDb: 15, mostRiseLu: 6 } as const

/** Moments lie between those that were measured, and filters ring on: the limit is kept by this much. */
const MARGIN_LU = 1
const STEP_DB = 0.25
/** Moments this far under the loudest one do not count, in dB. */
const SOFT_DB = 60
/** Places in each band at which the boost is read; its highest counts. */
const READINGS = 5

const weights = FILTER_HZ.map((hz) => 10 ** (kWeightingDb(hz) / 10))
const places = Float64Array.from({ length: FILTER_COUNT * READINGS }, (_, i) => {
  const b = Math.floor(i / READINGS)
  return bandEdgeHz(b) + ((i % READINGS) / (READINGS - 1)) * (bandEdgeHz(b + 1) - bandEdgeHz(b))
})

const known = new WeakMap<HearingBands, Float64Array>()

/** K-weighted power of each moment; 0 for those that do not count. */
function momentPowers(bands: HearingBands): Float64Array {
  let powers = known.get(bands)
  if (powers) return powers
  powers = new Float64Array(bands.frames)
  let loudest = 0
  for (let f = 0; f < bands.frames; f++) {
    let sum = 0
    for (let b = 0; b < FILTER_COUNT; b++) {
      const at = f * FILTER_COUNT + b
      sum += weights[b] * (bands.mid[at] + bands.side[at])
    }
    powers[f] = sum
    if (sum > loudest) loudest = sum
  }
  const least = loudest * 10 ** (-SOFT_DB / 10)
  for (let f = 0; f < powers.length; f++) if (powers[f] < least) powers[f] = 0
  known.set(bands, powers)
  return powers
}

/**
 * The largest boost, in dB, with which a bell makes no moment of a sound louder by more than {@link HUNT.mostRiseLu}: a
 * ring that carries the whole sound is hardly lifted, one in the noise floor by all of {@link HUNT.mostDb}.
 */
export function huntBoost(
  bands: HearingBands,
  hz: number,
  q: number,
  sampleRateHz: number,
): number {
  const powers = momentPowers(bands)
  const most = 10 ** ((HUNT.mostRiseLu - MARGIN_LU) / 10) - 1
  const isHeld = (db: number) => {
    const gains = highestGains(hz, q, db, sampleRateHz)
    for (let f = 0; f < bands.frames; f++) {
      if (powers[f] === 0) continue
      let added = 0
      for (const { band, more } of gains) {
        const at = f * FILTER_COUNT + band
        added += more * (bands.mid[at] + bands.side[at])
      }
      if (added > most * powers[f]) return false
    }
    return true
  }
  let [low, high] = [0, HUNT.mostDb / STEP_DB]
  while (low < high) {
    const middle = Math.ceil((low + high) / 2)
    if (isHeld(middle * STEP_DB)) low = middle
    else high = middle - 1
  }
  return low * STEP_DB
}

/** Bands that a bell lifts, each with the weighted power it adds at most, as a part of what is there. */
function highestGains(hz: number, q: number, db: number, sampleRateHz: number) {
  const read = magnitudeDb([{ ...newBand('bell', hz), q, db }], places, sampleRateHz)
  const out: { band: number; more: number }[] = []
  for (let band = 0; band < FILTER_COUNT; band++) {
    // A narrow bell's top may lie between the readings.
    const holdsTop = hz >= bandEdgeHz(band) && hz <= bandEdgeHz(band + 1)
    let highest = holdsTop ? db : 0
    for (let i = 0; i < READINGS; i++) highest = Math.max(highest, read[band * READINGS + i])
    if (highest > 0.05) out.push({ band, more: weights[band] * (10 ** (highest / 10) - 1) })
  }
  return out
}
