import {
  type BellReading,
  bellReadings,
  CELLS,
  hzOfCell,
  RING_PLACES,
  type RingModel,
  type RingWeight,
  rankPlaces,
  ringScores,
  rowAt,
  topPlaces,
} from '@sober-prism/core/findings/rings'
import { fitTrees } from '../boosting'
import { fitLogistic, solve } from '../logistic'
import { isAt, type ReadSound } from './sounds'

/** Chosen on folds of the sounds that are fitted. */
const TREES = { trees: 240, rate: 0.06, penalty: 5, leastInAnswer: 20 }
const SUM_PENALTY = 3
/** A ring's own cells reach this far; from there to {@link NEAR_CELLS} a cell is neither. */
const RING_CELLS = 1.6
const NEAR_CELLS = 8
/** Of other cells one in four is asked; a cell of a ring counts as six. */
const OTHERS_STEP = 4
const RING_COUNT = 6
const MARGIN_CELLS = 20
/** No figure counts beyond so many spreads. */
const MOST_SPREADS = 4

const FOLDS = 4
/** A second claim in a ringing sound is as false as one in an untouched one; with this weight one sound in three has a ring. */
const RINGING_COUNT = 0.25
/** Claims below this say nothing of those that are told. */
const LEAST_SCORE = -4
/** Where rings are listed to be listened to: so many false ones in an untouched sound. */
const FALSE_MARKS = 0.6
const READING_PENALTY = 10

/** Claims of sounds by a model: cell and score, best first. */
export function claimsOf(sounds: readonly ReadSound[], model: RingModel) {
  return sounds.map(({ features, open }) =>
    rankPlaces(features, openScores(features, open, model), model),
  )
}

function openScores(
  features: ReadSound['features'],
  open: Float64Array,
  model: Pick<RingModel, 'weights' | 'intercept'>,
) {
  return ringScores(features, model).map((score, c) => score + open[c])
}

/** The sum over features and the trees that are asked after it. */
export function fitModel(sounds: readonly ReadSound[]): RingModel {
  const sum = fitSum(sounds)
  const rows: Float64Array[] = []
  const labels: number[] = []
  for (const { features, open, ring } of sounds) {
    const scores = openScores(features, open, sum)
    for (const { cell } of topPlaces(scores, RING_PLACES)) {
      rows.push(rowAt(features, scores, Math.round(cell), sum.weights))
      labels.push(isAt(ring, cell) ? 1 : 0)
    }
  }
  const { intercept, table } = fitTrees(rows, labels, TREES)
  return rounded({ ...sum, treesIntercept: intercept, trees: table })
}

/** As it stands in the tables, so that what is scored is what is shipped. */
function rounded(model: RingModel): RingModel {
  const to = (digits: number) => (v: number) => Number(v.toFixed(digits))
  const four = to(4)
  return {
    intercept: four(model.intercept),
    weights: model.weights.map(({ name, mean, sd, weight }) => ({
      name,
      mean: four(mean),
      sd: four(sd),
      weight: four(weight),
    })),
    treesIntercept: four(model.treesIntercept),
    trees: model.trees.map((v) => Number(v.toPrecision(4))),
  }
}

function fitSum(sounds: readonly ReadSound[]): Pick<RingModel, 'intercept' | 'weights'> {
  const names = [...sounds[0].features.keys()]
  const rows: Float64Array[] = []
  const labels: number[] = []
  const counts: number[] = []
  for (const { features, ring, open } of sounds) {
    for (let c = MARGIN_CELLS; c < CELLS - MARGIN_CELLS; c++) {
      if (open[c] !== 0) continue
      const away = ring ? Math.abs(c - cellAt(ring.hz)) : Number.POSITIVE_INFINITY
      const isRing = away <= RING_CELLS
      if (!isRing && (away <= NEAR_CELLS || c % OTHERS_STEP !== 0)) continue
      rows.push(Float64Array.from(names, (n) => features.get(n)?.[c] ?? 0))
      labels.push(isRing ? 1 : 0)
      counts.push(isRing ? RING_COUNT : 1)
    }
  }
  const spreads = standardise(rows)
  const { intercept, weights } = fitLogistic(rows, labels, counts, SUM_PENALTY)
  const told = names.map((name, i): RingWeight => ({ name, ...spreads[i], weight: weights[i] }))
  return { intercept, weights: told }
}

/** Brings columns to mean 0 and spread 1, in place. */
function standardise(rows: readonly Float64Array[]): { mean: number; sd: number }[] {
  const spreads = Array.from(rows[0], (_, i) => {
    const mean = rows.reduce((s, r) => s + r[i], 0) / rows.length
    const sd = Math.sqrt(rows.reduce((s, r) => s + (r[i] - mean) ** 2, 0) / rows.length) || 1
    return { mean, sd }
  })
  for (const row of rows) {
    spreads.forEach(({ mean, sd }, i) => {
      row[i] = Math.max(-MOST_SPREADS, Math.min(MOST_SPREADS, (row[i] - mean) / sd))
    })
  }
  return spreads
}

const cellAt = (hz: number) => 48 * Math.log2(hz / hzOfCell(0))

/** Takes come in turns of a dozen kinds: each fold has some of every kind. */
const TURN = 12
const foldOf = (base: number) => (base + Math.floor(base / TURN)) % FOLDS

/** Each fourth of the sounds with its claims, by a model of the others. */
export function foldsOf(sounds: readonly ReadSound[]) {
  const bases = [...new Set(sounds.map((s) => s.base))]
  return Array.from({ length: FOLDS }, (_, f) => {
    const held = new Set(bases.filter((_base, i) => foldOf(i) === f))
    const judged = sounds.filter((s) => held.has(s.base))
    const model = fitModel(sounds.filter((s) => !held.has(s.base)))
    return { sounds: judged, claims: claimsOf(judged, model) }
  })
}

export type Judged = ReturnType<typeof foldsOf>[number]

/** Log odds of a claim by its score, where one sound in three has a ring. */
export function fitOdds(judged: readonly Judged[]): { slope: number; offset: number } {
  const rows: Float64Array[] = []
  const labels: number[] = []
  const counts: number[] = []
  for (const { sounds, claims } of judged) {
    sounds.forEach(({ ring }, i) => {
      for (const { cell, score } of claims[i]) {
        if (score < LEAST_SCORE) continue
        rows.push(Float64Array.of(score))
        labels.push(isAt(ring, cell) ? 1 : 0)
        counts.push(ring ? RINGING_COUNT : 1)
      }
    })
  }
  const { intercept, weights } = fitLogistic(rows, labels, counts, 0.01)
  return { slope: Number(weights[0].toFixed(3)), offset: Number(intercept.toFixed(3)) }
}

/** The score that so many claims in untouched sounds reach, on the mean. */
export function scoreAtFalse(judged: readonly Judged[], perSound = FALSE_MARKS): number {
  const clean = judged.flatMap(({ sounds, claims }) => claims.filter((_, i) => !sounds[i].ring))
  const scores = clean.flat().map((c) => c.score)
  scores.sort((a, b) => b - a)
  return scores[Math.floor(perSound * clean.length)] ?? Number.NEGATIVE_INFINITY
}

/** How height and width are told from what stands at the place: least squares over rings that were found. */
export function fitReadings(judged: readonly Judged[]): {
  height: BellReading
  width: BellReading
} {
  const rows: Float64Array[] = []
  const heights: number[] = []
  const widths: number[] = []
  for (const { sounds, claims } of judged) {
    sounds.forEach(({ ring, features, mean }, i) => {
      const hit = ring && claims[i].find(({ cell }) => isAt(ring, cell))
      if (!ring || !hit) return
      rows.push(bellReadings(features, mean, hit.cell))
      heights.push(ring.db)
      widths.push(Math.log(ring.q))
    })
  }
  return { height: fitReading(rows, heights), width: fitReading(rows, widths) }
}

/** Least squares with a small penalty on standardised columns. */
function fitReading(rows: readonly Float64Array[], targets: readonly number[]): BellReading {
  const columns = rows.map((r) => r.slice())
  const spreads = standardise(columns)
  const size = spreads.length
  const middle = targets.reduce((a, b) => a + b, 0) / targets.length
  const normal = Array.from({ length: size }, (_, i) =>
    Float64Array.from({ length: size }, (_x, j) =>
      columns.reduce((s, row) => s + row[i] * row[j], i === j ? READING_PENALTY : 0),
    ),
  )
  const right = Float64Array.from({ length: size }, (_, i) =>
    columns.reduce((s, row, r) => s + row[i] * (targets[r] - middle), 0),
  )
  const slopes = solve(normal, right)
  const coefficients = spreads.map(({ sd }, i) => slopes[i] / sd)
  const intercept = spreads.reduce((s, { mean }, i) => s - coefficients[i] * mean, middle)
  const bounds = spreads.map(({ mean, sd }): [number, number] => [
    Number((mean - MOST_SPREADS * sd).toFixed(2)),
    Number((mean + MOST_SPREADS * sd).toFixed(2)),
  ])
  return {
    intercept: Number(intercept.toFixed(4)),
    coefficients: coefficients.map((v) => Number(v.toFixed(4))),
    bounds,
  }
}
