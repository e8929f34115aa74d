import { bellReadings, readingOf } from './bell-reading'
import type { Features } from './features'
import { meanProfile, ringFeatures } from './features'
import { CELLS, hzOfCell, type LevelGrid, levelGrids } from './level-grid'
import type { RingModel, RingWeight } from './ring-model'
import { RING_TREES, TREES_INTERCEPT } from './tree-table'
import { sumOfTrees } from './trees'
import {
  RING_HEIGHT,
  RING_INTERCEPT,
  RING_MARK_SCORE,
  RING_ODDS,
  RING_WEIGHTS,
  RING_WIDTH,
} from './weights'

/** A place that stands out whatever is played. */
export interface Ring {
  readonly hz: number
  readonly q: number
  /** Height over the places beside it, in dB. */
  readonly db: number
  /** What the chain that it is told behind leaves of its height, in dB; all of it in a recording. */
  readonly leftDb: number
  /** What tells it, in natural log odds before {@link likelihood}. */
  readonly score: number
  /** How likely it is a ring of the room, the microphone or a filter, 0 to 1; else it belongs to the instrument. */
  readonly likelihood: number
}

const MOST_SPREADS = 4
/** Only places in this range are claimed. */
const LOWEST_HZ = 97
const HIGHEST_HZ = 10_500
/** Claims stand this many cells apart; places that are asked twice may be nearer, so that no partial hides a ring. */
const APART = 10
const PLACES_APART = 3
const MOST_CLAIMS = 3
/** Places that are asked twice. */
export const RING_PLACES = 30

const RING_MODEL: RingModel = {
  intercept: RING_INTERCEPT,
  weights: RING_WEIGHTS,
  treesIntercept: TREES_INTERCEPT,
  trees: RING_TREES,
}

/** All that was fitted by `npm run rings -- --fit`. */
export const RING_FIT = {
  model: RING_MODEL,
  odds: RING_ODDS,
  markScore: RING_MARK_SCORE,
  height: RING_HEIGHT,
  width: RING_WIDTH,
} as const

/** The sum over features at each cell, smoothed a little. */
export function ringScores(
  features: Features,
  { weights, intercept }: Pick<RingModel, 'weights' | 'intercept'> = RING_MODEL,
): Float64Array {
  const sums = new Float64Array(CELLS).fill(intercept)
  for (const { name, mean, sd, weight } of weights) {
    const values = features.get(name)
    if (!values) throw new RangeError(`There is no feature ${name}.`)
    for (let c = 0; c < CELLS; c++) {
      const x = Math.max(-MOST_SPREADS, Math.min(MOST_SPREADS, (values[c] - mean) / sd))
      sums[c] += weight * x
    }
  }
  const at = (c: number) => sums[Math.max(0, Math.min(CELLS - 1, c))]
  return sums.map((v, c) => 0.25 * at(c - 1) + 0.5 * v + 0.25 * at(c + 1))
}

/** The places where a sum is largest, best first, with the sum there; `cell` lies between cells. */
export function topPlaces(scores: Float64Array, most: number): { cell: number; score: number }[] {
  const left = scores.slice()
  const out: { cell: number; score: number }[] = []
  for (let n = 0; n < most; n++) {
    let best = -1
    for (let c = 1; c < CELLS - 1; c++) {
      const hz = hzOfCell(c)
      if (hz < LOWEST_HZ || hz > HIGHEST_HZ || left[c] === Number.NEGATIVE_INFINITY) continue
      if (best < 0 || left[c] > left[best]) best = c
    }
    if (best < 0) break
    const [a, b, c] = [scores[best - 1], scores[best], scores[best + 1]]
    const bend = a - 2 * b + c
    const shift = bend < 0 ? Math.max(-0.5, Math.min(0.5, (0.5 * (a - c)) / bend)) : 0
    out.push({ cell: best + shift, score: b })
    left.fill(
      Number.NEGATIVE_INFINITY,
      Math.max(0, best - PLACES_APART),
      Math.min(CELLS, best + PLACES_APART + 1),
    )
  }
  return out
}

/** What trees ask about at a place: its features in the order of the weights, and their sum. */
export function rowAt(
  features: Features,
  scores: Float64Array,
  cell: number,
  weights: readonly RingWeight[],
): Float64Array {
  const row = new Float64Array(weights.length + 1)
  weights.forEach(({ name }, i) => {
    row[i] = features.get(name)?.[cell] ?? 0
  })
  row[weights.length] = scores[cell]
  return row
}

/** The likeliest places, best first: the sum says where they may be, trees over the same features how likely each is. */
export function rankPlaces(
  features: Features,
  scores: Float64Array,
  { weights, treesIntercept, trees }: Omit<RingModel, 'intercept'> = RING_MODEL,
): { cell: number; score: number }[] {
  const places = topPlaces(scores, RING_PLACES)
    .map(({ cell }) => {
      const row = rowAt(features, scores, Math.round(cell), weights)
      return { cell, score: treesIntercept + sumOfTrees(row, trees) }
    })
    .sort((a, b) => b.score - a.score)
  const out: typeof places = []
  for (const place of places) {
    if (out.length === MOST_CLAIMS) break
    if (out.every(({ cell }) => Math.abs(cell - place.cell) > APART)) out.push(place)
  }
  return out
}

/** Readings are told within what a ring can be. */
const HEIGHTS_DB = [2, 24] as const
const WIDTHS_Q = [5, 40] as const

/** Height and width of a ring at a cell, from what stands there: a reading that was fitted, its error in docs/findings.md. */
function readBell(features: Features, mean: Float64Array, cell: number): { db: number; q: number } {
  const row = bellReadings(features, mean, cell)
  const within = (v: number, [least, most]: readonly [number, number]) =>
    Math.max(least, Math.min(most, v))
  return {
    db: within(readingOf(RING_HEIGHT, row), HEIGHTS_DB),
    q: within(Math.exp(readingOf(RING_WIDTH, row)), WIDTHS_Q),
  }
}

/** From an even chance on a claim is told as a finding, by its score; those above the second are listed as tentative. */
export const RING_LEVELS = {
  finding: -RING_ODDS.offset / RING_ODDS.slope,
  mark: RING_MARK_SCORE,
} as const

export function likelihoodOf(score: number): number {
  return 1 / (1 + Math.exp(-(RING_ODDS.slope * score + RING_ODDS.offset)))
}

/** Fixed resonances of a mono sound, those that are most likely first: all that are worth a pencil mark. */
export function findRings(signal: Float32Array, sampleRateHz: number): Ring[] {
  const { levels, floor } = levelGrids(signal, sampleRateHz)
  if (levels.frames < LEAST_FRAMES) return []
  const features = ringFeatures(levels, floor)
  const scores = ringScores(features)
  const mean = meanProfile(levels)
  leaveOutEdge(scores, levels)
  return rankPlaces(features, scores).flatMap(({ cell, score }): Ring[] => {
    const bell = readBell(features, mean, cell)
    if (score < RING_LEVELS.mark) return []
    return [
      { hz: hzOfCell(cell), ...bell, leftDb: bell.db, score, likelihood: likelihoodOf(score) },
    ]
  })
}

/** Takes out of scores what lies at or above the upper edge of a sound. */
export function leaveOutEdge(scores: Float64Array, levels: LevelGrid): void {
  const edge = upperEdge(levels)
  if (edge !== null) scores.fill(Number.NEGATIVE_INFINITY, Math.max(0, edge - EDGE_CELLS))
}

/**
 * The cell at which a sound ends that was recorded or sent at a lower rate: from there on all is far softer. Null where
 * there is none. The last band before such an edge stands out from what lies above it, whatever is played.
 */
function upperEdge({ frames, levels }: LevelGrid): number | null {
  const mean = new Float64Array(CELLS)
  levels.forEach((db, i) => {
    mean[i % CELLS] += db / frames
  })
  let above = Number.NEGATIVE_INFINITY
  for (let c = CELLS - 1 - EDGE_REACH; c > CELLS / 2; c--) {
    above = Math.max(above, mean[c + EDGE_REACH])
    if (mean[c] - above >= EDGE_DB) return c
  }
  return null
}

/** Within so many cells the level falls by that; so many below the edge nothing is claimed: half an octave. */
const EDGE_DB = 25
const EDGE_REACH = 16
const EDGE_CELLS = 24

/** About two seconds of sound: less tells nothing of a place. */
const LEAST_FRAMES = 48
