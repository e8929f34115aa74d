import type { EqBand } from '../../filters'
import { ERB_STEP, FILTER_COUNT, FILTER_HZ, type HearingBands } from '../../hearing'
import { LEVEL_BANDS } from '../level-bands'
import type { SourceReading } from '../source/source-reading'

/** What lies under a source, and the low cut that takes it out. */
export interface Rumble {
  readonly lowestHz: number
  /** Power below the source, in dB against the whole track. */
  readonly levelDb: number
  readonly toHz: number
  readonly cut: EqBand
}

/** What lies below this part of the lowest note is not the source. */
const UNDER_NOTE = 0.8
/** Rumble is low: what lies under a high source above this is spill, a breath, another string. */
const HIGHEST_HZ = 200
/** Softer than this against the track, it does not matter; in dB. */
const LEAST_DB = -42
/** A source's own low end moves with the rest of it; what moves by itself is not of it. */
const MOST_TIED = 0.5
/** The cut stands no higher than this part of the lowest note, ... */
const HIGHEST_CUT = 0.7
/** ... and where that is high, than this: what is low is out by then. */
const HIGHEST_CUT_HZ = 250
/** Without pitch: a sound that hardly moves has no range of its own that could be told ... */
const LEAST_MOVEMENT_DB = 4
/** ... else its own range begins where this much of the movement is shared. */
const LEAST_TIED = 0.6
const HIGHEST_EDGE_HZ = 400
/** Under lower notes than this there is nothing that could be told from the source. */
const LOWEST_EDGE_HZ = 55
/** What neither moves with the rest nor pauses is no note, however it repeats; looked for up to here, ... */
const LOOSE_TOP_HZ = 130
const MOST_LOOSE = 0.4
/** ... with so little between its softest tenth and its median, in dB. */
const STEADY_DB = 12
/** Of what is followed as pitch this part must lie above, to name the lowest note there. */
const LEAST_ABOVE = 0.25
const LOWEST_SHARE = 0.05

/**
 * Sound below the lowest note that really occurs, if it is there by itself: it does not rise and fall
 * with the source. What stands under a high note and is not low itself is none. Where there is no pitch, the lowest range that moves with the rest takes its place; a
 * steady noise has no such range, and nothing is claimed of it.
 */
export function findRumble({
  levels: measured,
  lowest,
  bands,
  hum,
}: Pick<SourceReading, 'levels' | 'lowest' | 'bands' | 'hum'>): Rumble | null {
  // Hum has an answer of its own: what is left without it counts.
  const levels = withoutHum(measured, hum)
  const lowestHz = lowestOf(lowest, bands)
  if (lowestHz === null) return null
  const edge = Math.min(HIGHEST_HZ, UNDER_NOTE * lowestHz)
  if (edge < LOWEST_EDGE_HZ) return null
  let under = 0
  let whole = 0
  levels.forEach((db, i) => {
    whole += 10 ** (measured[i] / 10)
    if (LEVEL_BANDS[i].toHz <= edge) under += 10 ** (db / 10)
  })
  if (under <= 0) return null
  const levelDb = 10 * Math.log10(under / whole)
  // Under a hum that is stronger nothing can be told: it is asked again when the hum is out.
  if (levelDb < Math.max(LEAST_DB, hum?.levelDb ?? -200)) return null
  if (tiedToSource(bands, edge) > MOST_TIED) return null
  const toHz = topOf(levels, edge, under)
  const between = Math.sqrt(toHz * 1.2 * lowestHz)
  const hz = Math.min(HIGHEST_CUT * lowestHz, HIGHEST_CUT_HZ, between)
  return {
    lowestHz,
    levelDb,
    toHz,
    cut: {
      type: 'low-cut',
      hz: Math.round(hz),
      db: 0,
      q: Math.SQRT1_2,
      slopeDbPerOct: 24,
      channel: 'stereo',
    },
  }
}

/** The lowest note; where what was followed is rumble itself, the lowest one above that. */
function lowestOf(lowest: SourceReading['lowest'], bands: HearingBands): number | null {
  if (lowest.hz === null) return lowestTied(bands)
  const loose = looseTop(bands)
  if (lowest.hz >= loose) return lowest.hz
  const followed = lowest.track.filter((hz) => hz > 0)
  const above = followed.filter((hz) => hz > loose).sort()
  if (above.length < LEAST_ABOVE * followed.length) return null
  return above[Math.floor(LOWEST_SHARE * above.length)]
}

/** Up to where the lowest range goes on whatever the rest does, in Hz; 0 where it does not. */
function looseTop(bands: HearingBands): number {
  const whole = levelsOverTime(bands, 0, FILTER_COUNT)
  const width = Math.round(1 / ERB_STEP)
  let top = 0
  for (let b = 0; FILTER_HZ[b + width] <= LOOSE_TOP_HZ; b += width) {
    const low = levelsOverTime(bands, 0, b + width)
    const [soft, middle] = [0.1, 0.5].map(
      (p) => [...low].sort((x, y) => x - y)[Math.floor(p * low.length)],
    )
    const tied = correlation(levelsOverTime(bands, b, b + width), whole)
    if (tied > MOST_LOOSE || !(middle - soft < STEADY_DB)) break
    top = FILTER_HZ[b + width]
  }
  return top
}

/** The lower edge of the range that rises and falls with the whole, ERB by ERB; null for a steady sound. */
function lowestTied(bands: HearingBands): number | null {
  const width = Math.round(1 / ERB_STEP)
  const whole = levelsOverTime(bands, 0, FILTER_COUNT)
  const loudest = whole.reduce((a, b) => Math.max(a, b), -200)
  if (loudest - whole.reduce((a, b) => a + b, 0) / whole.length < LEAST_MOVEMENT_DB) return null
  for (let b = 0; b + width <= FILTER_COUNT && FILTER_HZ[b] < HIGHEST_EDGE_HZ; b += width) {
    const tied = correlation(levelsOverTime(bands, b, b + width), whole)
    if (tied >= LEAST_TIED) return FILTER_HZ[b]
  }
  return null
}

function levelsOverTime(bands: HearingBands, from: number, to: number): number[] {
  return Array.from({ length: bands.frames }, (_, frame) => {
    let sum = 0
    for (let b = from; b < to; b++) {
      sum += bands.mid[frame * FILTER_COUNT + b] + bands.side[frame * FILTER_COUNT + b]
    }
    return 10 * Math.log10(sum + 1e-12)
  })
}

/** A steady tone is read so far to either side of its frequency, in Hz: what a window of a third of a second smears. */
const SMEAR_HZ = 9

/** Levels of the bands in which no line of a hum is read; the others are taken as empty. */
function withoutHum(levels: Float64Array, hum: SourceReading['hum']): Float64Array {
  if (!hum) return levels
  return levels.map((db, i) => {
    const { fromHz, toHz } = LEVEL_BANDS[i]
    const isHum = hum.harmonics.some(({ number }) => {
      const hz = number * hum.hz
      return hz >= fromHz - SMEAR_HZ && hz < toHz + SMEAR_HZ
    })
    return isHum ? -200 : db
  })
}

/** Correlation over time of the level below an edge with the level above it, in dB. */
function tiedToSource(bands: HearingBands, edgeHz: number): number {
  const low: number[] = []
  const rest: number[] = []
  for (let frame = 0; frame < bands.frames; frame++) {
    const sums = [0, 0]
    for (let b = 0; b < FILTER_COUNT; b++) {
      const at = frame * FILTER_COUNT + b
      sums[FILTER_HZ[b] < edgeHz ? 0 : 1] += bands.mid[at] + bands.side[at]
    }
    if (sums[1] < 1e-9) continue
    low.push(10 * Math.log10(sums[0] + 1e-12))
    rest.push(10 * Math.log10(sums[1]))
  }
  return correlation(low, rest)
}

function correlation(a: readonly number[], b: readonly number[]): number {
  const n = a.length
  if (n < 2) return 0
  const meanA = a.reduce((x, y) => x + y) / n
  const meanB = b.reduce((x, y) => x + y) / n
  let ab = 0
  let aa = 0
  let bb = 0
  for (let i = 0; i < n; i++) {
    ab += (a[i] - meanA) * (b[i] - meanB)
    aa += (a[i] - meanA) ** 2
    bb += (b[i] - meanB) ** 2
  }
  return aa > 0 && bb > 0 ? ab / Math.sqrt(aa * bb) : 0
}

/** The frequency below which nearly all of what lies under the edge is found. */
function topOf(levels: Float64Array, edgeHz: number, under: number): number {
  let sum = 0
  for (let i = 0; i < levels.length && LEVEL_BANDS[i].toHz <= edgeHz; i++) {
    sum += 10 ** (levels[i] / 10)
    if (sum > 0.95 * under) return LEVEL_BANDS[i].toHz
  }
  return edgeHz
}
