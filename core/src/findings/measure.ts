import { FILTER_COUNT, FILTER_HZ, filterNear } from '../hearing'
import type { Edit } from '../session'
import { type Measure, MIX, type Treatment } from '../treatments'
import { addedTreatments, filterPowerGains, meanPowerGain } from './effects'
import { LEVEL_BANDS } from './level-bands'
import { type MomentReading, selfDrawnGains } from './own/self-drawn'
import type { SourceReading } from './source/source-reading'

/** What levels and sides are read from. */
export interface MeasureSources {
  readonly tracks: readonly {
    readonly id: string
    readonly reading: Pick<SourceReading, 'levels' | 'bands' | 'heard'>
    /** Gain at which it stands in the mix, in dB: moves on it change the mix's levels by its part of them. */
    readonly gainDb?: number
  }[]
  readonly mixLevels: Float64Array | null
}

/** Edits of a session; of these the bands and treatments that are added to the measured node count, for the mix those of tracks too. */
export interface MeasureChange {
  readonly moves: readonly Edit[]
  readonly sampleRateHz: number
}

export type ReadableMeasure = Extract<Measure, { of: 'level' | 'sides' | 'low-in-mono' }>

/** A level in dB or a share of sides, as things are or after some edits; NaN where unknown. */
export function readMeasure(
  measure: ReadableMeasure,
  sources: MeasureSources,
  change?: MeasureChange,
): number {
  switch (measure.of) {
    case 'level':
      return readLevel(measure, sources, change)
    case 'sides':
      return readSides(measure, sources, change)
    case 'low-in-mono':
      return readLowInMono(measure, sources, change)
  }
}

function readLevel(
  { track, fromHz, toHz, against }: Extract<Measure, { of: 'level' }>,
  { tracks, mixLevels }: MeasureSources,
  change: MeasureChange | undefined,
): number {
  const reading = tracks.find((t) => t.id === track)?.reading ?? null
  const levels = track === MIX ? mixLevels : reading?.levels
  if (!levels) return Number.NaN
  const gains = change && levelGains(addedTreatments(change.moves, track), change, reading)
  const byTracks = change && track === MIX ? gainsByTracks(tracks, change) : null
  const powers = Array.from(
    levels,
    (db, i) => 10 ** (db / 10) * (gains?.[i] ?? 1) * (byTracks?.[i] ?? 1),
  )
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

/** Power gain of each of the mix's bands by moves on tracks: each changes its part of the power there. */
function gainsByTracks(tracks: MeasureSources['tracks'], change: MeasureChange): Float64Array {
  const all = new Float64Array(LEVEL_BANDS.length).fill(1e-20)
  const changed = new Float64Array(LEVEL_BANDS.length).fill(1e-20)
  for (const { id, reading, gainDb } of tracks) {
    if (gainDb === undefined) continue
    const added = addedTreatments(change.moves, id)
    const gains = added.length > 0 ? levelGains(added, change, reading) : null
    reading.levels.forEach((db, i) => {
      const power = 10 ** ((db + gainDb) / 10)
      all[i] += power
      changed[i] += power * (gains?.[i] ?? 1)
    })
  }
  return changed.map((power, i) => power / all[i])
}

const LEVEL_EDGES = LEVEL_BANDS.map((b) => [b.fromHz, b.toHz] as const)

/**
 * Mean power gain of treatments over the bands in which levels are measured; the middle stands for all.
 * @param reading of a track: what of it treatments hear themselves; null for the mix, of which that is not known.
 */
function levelGains(
  treatments: readonly Treatment[],
  { sampleRateHz }: MeasureChange,
  reading: MomentReading | null,
): Float64Array {
  const gains = meanPowerGain(treatments, 'mid', sampleRateHz, LEVEL_EDGES, 5)
  if (!reading) return gains
  const drawn = selfDrawnGains(treatments, reading, sampleRateHz)
  return gains.map((gain, i) => gain * drawn[filterNear(LEVEL_BANDS[i].hz)])
}

function readSides(
  { track, belowHz }: Extract<Measure, { of: 'sides' }>,
  { tracks }: MeasureSources,
  change: MeasureChange | undefined,
): number {
  const bands = tracks.find((t) => t.id === track)?.reading.bands
  if (!bands) return Number.NaN
  const added = change ? addedTreatments(change.moves, track) : []
  const gains = (part: 'mid' | 'side') =>
    change && filterPowerGains(added, part, change.sampleRateHz)
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

/** Of low ends that are made mono counts what they are made of; no other move. */
function readLowInMono(
  { track, belowHz }: Extract<Measure, { of: 'low-in-mono' }>,
  { tracks }: MeasureSources,
  change: MeasureChange | undefined,
): number {
  const reading = tracks.find((t) => t.id === track)?.reading
  if (!reading) return Number.NaN
  const { mid, side } = reading.bands
  const made = change && addedTreatments(change.moves, track).find((t) => t.kind === 'low-middle')
  const from = made?.kind === 'low-middle' ? made.params.from : null
  const highs = made && change ? filterPowerGains([made], 'side', change.sampleRateHz) : null
  const lean = leanBelow(reading.heard, belowHz)
  let [inMono, whole] = [1e-20, 1e-20]
  for (let i = 0; i < mid.length; i++) {
    const b = i % FILTER_COUNT
    // Both branches of the crossover have linear phase: what the upper one leaves is the lower one's.
    const high = Math.sqrt(highs?.[b] ?? 1)
    const low = 1 - high
    const across = lean * (mid[i] + side[i])
    const middle = {
      both: mid[i],
      turned: high * high * mid[i] + low * low * side[i],
      left: mid[i] + low * low * side[i] + low * across,
      right: mid[i] + low * low * side[i] - low * across,
    }[from ?? 'both']
    if (FILTER_HZ[b] < belowHz) inMono += middle
    whole += middle + high * high * side[i]
  }
  return 10 * Math.log10(inMono / whole)
}

/** By how much left is stronger than right below a frequency, -1 to 1. */
export function leanBelow({ mid, side, cross }: SourceReading['heard'], belowHz: number): number {
  if (!side || !cross) return 0
  let [more, both] = [0, 1e-20]
  for (let i = 0; i < mid.length; i++) {
    if (FILTER_HZ[i % FILTER_COUNT] >= belowHz) continue
    more += cross[i]
    both += mid[i] + side[i]
  }
  return Math.max(-1, Math.min(1, more / both))
}
