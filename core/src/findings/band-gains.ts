import type { EqBand } from '../filters'
import { magnitudeDb } from '../filters'
import { bandEdgeHz, FILTER_COUNT } from '../hearing'

/** Places within each band at which a filter is read. */
const READINGS = 5

/** Mean power gain of filters over each hearing band, for the middle or the sides. */
export function bandPowerGains(
  bands: readonly EqBand[],
  part: 'mid' | 'side',
  sampleRateHz: number,
): Float64Array {
  const heard = bands.filter((b) => b.channel === 'stereo' || b.channel === part)
  if (heard.length === 0) return new Float64Array(FILTER_COUNT).fill(1)
  const places = Float64Array.from({ length: FILTER_COUNT * READINGS }, (_, i) => {
    const b = Math.floor(i / READINGS)
    const share = ((i % READINGS) + 0.5) / READINGS
    return bandEdgeHz(b) + share * (bandEdgeHz(b + 1) - bandEdgeHz(b))
  })
  const db = magnitudeDb(heard, places, sampleRateHz)
  return Float64Array.from({ length: FILTER_COUNT }, (_, b) => {
    let sum = 0
    for (let i = 0; i < READINGS; i++) sum += 10 ** (db[b * READINGS + i] / 10)
    return sum / READINGS
  })
}
