import { magnitudeDb } from '../filters'
import { FILTER_COUNT, FILTER_HZ } from '../hearing'
import type { EqBand } from '../session'
import { bandPowerGains } from './band-gains'
import type { Measure, Owner } from './finding'
import { LEVEL_BANDS } from './level-bands'
import type { SourceReading } from './source-reading'

/** What levels and sides are read from. */
export interface MeasureSources {
  readonly tracks: readonly { readonly reading: Pick<SourceReading, 'levels' | 'bands'> }[]
  readonly mixLevels: Float64Array | null
}

/** Filters put on one sound. */
export interface MeasureChange {
  readonly owner: Owner
  readonly bands: readonly EqBand[]
  readonly sampleRateHz: number
}

export type ReadableMeasure = Extract<Measure, { of: 'level' | 'sides' }>

/** A level in dB or a share of sides, as things are or with filters on one sound; NaN where unknown. */
export function readMeasure(
  measure: ReadableMeasure,
  sources: MeasureSources,
  change?: MeasureChange,
): number {
  const acts = change && change.owner === measure.track ? change : undefined
  return measure.of === 'level'
    ? readLevel(measure, sources, acts)
    : readSides(measure, sources, acts)
}

function readLevel(
  { track, fromHz, toHz, against }: Extract<Measure, { of: 'level' }>,
  { tracks, mixLevels }: MeasureSources,
  change: MeasureChange | undefined,
): number {
  const levels = track === 'mix' ? mixLevels : tracks[track]?.reading.levels
  if (!levels) return Number.NaN
  const powers = Array.from(levels, (db, i) => {
    const { fromHz: low, toHz: high } = LEVEL_BANDS[i]
    return 10 ** (db / 10) * (change ? meanGain(change, low, high) : 1)
  })
  const first = LEVEL_BANDS.findIndex((b) => b.toHz > fromHz)
  let last = LEVEL_BANDS.length - 1
  while (last > first && LEVEL_BANDS[last].fromHz >= toHz) last--
  const sum = (from: number, to: number) => {
    let total = 0
    for (let i = Math.max(0, from); i <= Math.min(powers.length - 1, to); i++) total += powers[i]
    return total
  }
  const here = sum(first, last)
  if (against === 'whole') return 10 * Math.log10((here + 1e-20) / (sum(0, powers.length) + 1e-20))
  // Three sixths of an octave on either side, the nearest left out.
  const beside = sum(first - 4, first - 2) + sum(last + 2, last + 4)
  return 10 * Math.log10((here / (last - first + 1) + 1e-20) / (beside / 6 + 1e-20))
}

/** Mean power gain of filters over a band. */
function meanGain({ bands, sampleRateHz }: MeasureChange, fromHz: number, toHz: number): number {
  const places = Float64Array.from([0.1, 0.3, 0.5, 0.7, 0.9], (x) => fromHz * (toHz / fromHz) ** x)
  const db = magnitudeDb(bands, places, sampleRateHz)
  return db.reduce((sum, v) => sum + 10 ** (v / 10), 0) / places.length
}

function readSides(
  { track, belowHz }: Extract<Measure, { of: 'sides' }>,
  { tracks }: MeasureSources,
  change: MeasureChange | undefined,
): number {
  const bands = tracks[track]?.reading.bands
  if (!bands) return Number.NaN
  const gains = (part: 'mid' | 'side') =>
    change && bandPowerGains(change.bands, part, change.sampleRateHz)
  const [midGains, sideGains] = [gains('mid'), gains('side')]
  let mid = 0
  let side = 0
  for (let i = 0; i < bands.mid.length; i++) {
    const b = i % FILTER_COUNT
    if (FILTER_HZ[b] >= belowHz) continue
    mid += bands.mid[i] * (midGains?.[b] ?? 1)
    side += bands.side[i] * (sideGains?.[b] ?? 1)
  }
  return mid + side > 0 ? side / (mid + side) : 0
}
