import {
  type BellReading,
  bellReadings,
  hzOfCell,
  readingOf,
} from '@sober-prism/core/findings/rings'
import type { Judged } from './fit'
import { isAt } from './sounds'

export const HEADER = [
  '| sounds | told from | false claims a clean sound | found | clear ones found | place within 1 % | height: error, if all were told the mean | Q: factor, if all were told the mean |',
  '|---|---|---|---|---|---|---|---|',
].join('\n')

/** A ring is clear that has so many dB, and raises what is heard near it by so many. */
const CLEAR = { db: 9, rise: 3 } as const

/** One row of the table: what of a set is claimed from a score on. */
export function reportRow(
  name: string,
  { sounds, claims }: Judged,
  told: { readonly name: string; readonly score: number },
  readings: { readonly height: BellReading; readonly width: BellReading },
): string {
  let [found, all, clearFound, clear, exact, falseOnes, untouched] = [0, 0, 0, 0, 0, 0, 0]
  const heights: Pairs = []
  const widths: Pairs = []
  sounds.forEach(({ ring, features, mean }, i) => {
    const told_ = claims[i].filter(({ score }) => score >= told.score)
    if (!ring) {
      untouched++
      falseOnes += told_.length
      return
    }
    const isClear = ring.db >= CLEAR.db && ring.rise >= CLEAR.rise
    const hit = told_.find(({ cell }) => isAt(ring, cell))
    all++
    clear += isClear ? 1 : 0
    if (!hit) return
    found++
    clearFound += isClear ? 1 : 0
    exact += Math.abs(hzOfCell(hit.cell) / ring.hz - 1) <= 0.01 ? 1 : 0
    const row = bellReadings(features, mean, hit.cell)
    heights.push([readingOf(readings.height, row), ring.db])
    widths.push([readingOf(readings.width, row), Math.log(ring.q)])
  })
  const percent = (a: number, b: number) => `${((100 * a) / Math.max(1, b)).toFixed(0)} %`
  const factor = (v: number) => Math.exp(v).toFixed(2)
  return `| ${[
    name,
    told.name,
    (falseOnes / Math.max(1, untouched)).toFixed(2),
    `${percent(found, all)} of ${all}`,
    `${percent(clearFound, clear)} of ${clear}`,
    percent(exact, found),
    `${errorOf(heights).toFixed(1)} dB, ${spreadOf(heights).toFixed(1)}`,
    `${factor(errorOf(widths))}, ${factor(spreadOf(widths))}`,
  ].join(' | ')} |`
}

type Pairs = (readonly [told: number, planted: number])[]

const rootMean = (list: readonly number[]) =>
  Math.sqrt(list.reduce((s, v) => s + v * v, 0) / Math.max(1, list.length))
const errorOf = (pairs: Pairs) => rootMean(pairs.map(([told, planted]) => told - planted))

function spreadOf(pairs: Pairs): number {
  const mean = pairs.reduce((s, [, planted]) => s + planted, 0) / Math.max(1, pairs.length)
  return rootMean(pairs.map(([, planted]) => planted - mean))
}

/** Edges of the ranges of likelihood. */
const RANGES = [0.1, 0.3, 0.5, 0.6, 0.7, 0.8, 0.9, 1.001] as const
/** A sound with a ring counts so much, an untouched one 1: one in three has a ring. */
const RINGING_COUNT = 0.25

/** Of what is said to be so likely, how much is right: lines of a table. */
export function reliability(
  judged: readonly Judged[],
  likelihoodOf: (score: number) => number,
): string[] {
  const all = judged.flatMap(({ sounds, claims }) =>
    sounds.flatMap(({ ring }, i) =>
      claims[i].map(({ cell, score }) => ({
        likelihood: likelihoodOf(score),
        isRight: isAt(ring, cell),
        count: ring ? RINGING_COUNT : 1,
      })),
    ),
  )
  return RANGES.slice(1).map((to, r) => {
    const from = RANGES[r]
    const here = all.filter(({ likelihood }) => likelihood >= from && likelihood < to)
    const sum = (of: (c: (typeof all)[number]) => number) => here.reduce((s, c) => s + of(c), 0)
    const weight = sum((c) => c.count)
    const said = sum((c) => c.count * c.likelihood) / weight
    const right = sum((c) => (c.isRight ? c.count : 0)) / weight
    const told = `${Math.round(100 * from)} to ${Math.min(100, Math.round(100 * to))} %`
    if (here.length === 0) return `| ${told} | – | – | 0 |`
    return `| ${told} | ${(100 * said).toFixed(0)} % | ${(100 * right).toFixed(0)} % | ${here.length} |`
  })
}

export const RELIABILITY_HEADER = '| said to be | said, mean | right | claims |\n|---|---|---|---|'
