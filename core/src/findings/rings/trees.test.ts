import { describe, expect, it } from 'vitest'
import { RING_TREES } from './tree-table'
import { sumOfTrees, TREE_SIZE } from './trees'
import { RING_WEIGHTS } from './weights'

describe('trees of three questions', () => {
  it('give the answer that their questions lead to, and add up', () => {
    // Whether the first value is above 0, then whether the second is above 1 or 2, then nothing more.
    const tree = [0, 1, 1, 0, 0, 0, 0, 0, 1, 2, 9, 9, 9, 9, 10, 11, 20, 21, 30, 31, 40, 41]
    expect(sumOfTrees([-1, 0.5], tree)).toBe(10)
    expect(sumOfTrees([-1, 1.5], tree)).toBe(20)
    expect(sumOfTrees([1, 1.5], tree)).toBe(30)
    expect(sumOfTrees([1, 2.5], tree)).toBe(40)
    expect(sumOfTrees([10, 2.5], tree)).toBe(41)
    // What is not above a threshold but on it goes the other way.
    expect(sumOfTrees([0, 1], [...tree, ...tree])).toBe(20)
  })

  it('of rings ask only about what there is: the features and their sum', () => {
    expect(RING_TREES.length % TREE_SIZE).toBe(0)
    for (let tree = 0; tree < RING_TREES.length; tree += TREE_SIZE) {
      for (const feature of RING_TREES.slice(tree, tree + 7)) {
        expect(Number.isInteger(feature) && feature >= 0).toBe(true)
        expect(feature).toBeLessThanOrEqual(RING_WEIGHTS.length)
      }
    }
  })
})
