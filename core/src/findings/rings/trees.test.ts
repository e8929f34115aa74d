import { describe, expect, it } from 'vitest'
import { RING_TREES } from './tree-table'
import { ANSWERS, sumOfTrees, TREE_SIZE } from './trees'
import { RING_WEIGHTS } from './weights'

/** A tree in the table: questions about the first two values, each with its threshold and where its sides lead. */
function treeOf(
  questions: readonly [feature: number, above: number, low: number, high: number][],
  answers: readonly number[],
): number[] {
  const all = Array.from({ length: ANSWERS - 1 }, (_, q) => questions[q] ?? [0, 0, -1, -1])
  const column = (i: number) => all.map((q) => q[i])
  const padded = Array.from({ length: ANSWERS }, (_, a) => answers[a] ?? 0)
  return [...column(0), ...column(1), ...column(2), ...column(3), ...padded]
}

describe('trees of questions', () => {
  it('give the answer that their questions lead to, and add up', () => {
    // Whether the first value is above 0; if so, whether the second is above 2, and if that, whether it is above 3.
    const tree = treeOf(
      [
        [0, 0, -1, 1],
        [1, 2, -2, 2],
        [1, 3, -3, -4],
      ],
      [10, 20, 30, 40],
    )
    expect(tree.length).toBe(TREE_SIZE)
    expect(sumOfTrees([-1, 9], tree)).toBe(10)
    expect(sumOfTrees([1, 1.5], tree)).toBe(20)
    expect(sumOfTrees([1, 2.5], tree)).toBe(30)
    expect(sumOfTrees([10, 3.5], tree)).toBe(40)
    // What is not above a threshold but on it goes the other way.
    expect(sumOfTrees([0, 9], [...tree, ...tree])).toBe(20)
    expect(sumOfTrees([1, 2], [...tree, ...tree])).toBe(40)
  })

  it('of rings ask only about what there is: the features and their sum', () => {
    expect(RING_TREES.length % TREE_SIZE).toBe(0)
    const questions = ANSWERS - 1
    for (let tree = 0; tree < RING_TREES.length; tree += TREE_SIZE) {
      const column = (i: number) =>
        RING_TREES.slice(tree + i * questions, tree + (i + 1) * questions)
      for (const feature of column(0)) {
        expect(Number.isInteger(feature) && feature >= 0).toBe(true)
        expect(feature).toBeLessThanOrEqual(RING_WEIGHTS.length)
      }
      // Each question leads onward, so that every row comes to an answer.
      column(2).forEach((below, q) => {
        for (const to of [below, column(3)[q]]) {
          expect(to > q || to < 0).toBe(true)
          expect(to).toBeGreaterThanOrEqual(-ANSWERS)
          expect(to).toBeLessThan(questions)
        }
      })
    }
  })
})
