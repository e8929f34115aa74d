import { seededRandom } from '@sober-prism/core/audio'
import { sumOfTrees } from '@sober-prism/core/findings/rings'
import { describe, expect, it } from 'vitest'
import { fitTrees } from './boosting'

const OPTIONS = { trees: 60, rate: 0.1, penalty: 1, leastInAnswer: 10 }

describe('boosted trees', () => {
  const random = seededRandom(7)
  const rows = Array.from({ length: 2000 }, () =>
    Float64Array.from({ length: 3 }, () => 2 * random() - 1),
  )

  it('learn what no sum of the features can: one of two, but not both', () => {
    const labels = rows.map(([a, b]) => (a > 0.2 !== b > -0.1 ? 1 : 0))
    const { intercept, table } = fitTrees(rows, labels, OPTIONS)
    const right = rows.filter(
      (row, r) => intercept + sumOfTrees(row, table) > 0 === (labels[r] === 1),
    )
    expect(right.length / rows.length).toBeGreaterThan(0.97)
  })

  it('say how likely it is: odds as often right as they say', () => {
    const labels = rows.map(([a]) => (random() < (a > 0 ? 0.8 : 0.1) ? 1 : 0))
    const { intercept, table } = fitTrees(rows, labels, { ...OPTIONS, trees: 30 })
    for (const [side, share] of [
      [1, 0.8],
      [-1, 0.1],
    ]) {
      const told = rows
        .filter(([a]) => a * side > 0)
        .map((row) => 1 / (1 + Math.exp(-intercept - sumOfTrees(row, table))))
      const mean = told.reduce((x, y) => x + y, 0) / told.length
      expect(Math.abs(mean - share)).toBeLessThan(0.04)
    }
  })

  it('say the same to all where nothing tells them apart', () => {
    const alike = rows.map(() => Float64Array.of(1, 2, 3))
    const { intercept, table } = fitTrees(
      alike,
      alike.map((_, i) => (i % 4 === 0 ? 1 : 0)),
      OPTIONS,
    )
    expect(intercept + sumOfTrees(alike[0], table)).toBeCloseTo(Math.log(1 / 3), 6)
  })
})
