import { RING_TREES } from './tree-table'

/** Questions in each tree, three in a row to an answer. */
const QUESTIONS = 7
const ANSWERS = QUESTIONS + 1
/** A tree in a table: what each question asks about, what it asks for, and what each answer adds. */
export const TREE_SIZE = 2 * QUESTIONS + ANSWERS

/**
 * What small trees say together (gradient boosting, Friedman 2001): each asks three questions about values of a row,
 * whether one is above a threshold; question `n` is followed by `2n + 1` or, above it, `2n + 2`.
 * @param table trees one after the other, {@link TREE_SIZE} numbers each.
 */
export function sumOfTrees(row: ArrayLike<number>, table: ArrayLike<number> = RING_TREES): number {
  let sum = 0
  for (let tree = 0; tree < table.length; tree += TREE_SIZE) {
    let at = 0
    while (at < QUESTIONS) {
      at = 2 * at + (row[table[tree + at]] > table[tree + QUESTIONS + at] ? 2 : 1)
    }
    sum += table[tree + QUESTIONS + at]
  }
  return sum
}
