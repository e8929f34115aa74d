/** Answers of each tree; one question fewer. */
export const ANSWERS = 12
const QUESTIONS = ANSWERS - 1
/** A tree in a table: what each question asks about, what it asks for, where each side leads, and what each answer adds. */
export const TREE_SIZE = 4 * QUESTIONS + ANSWERS

/**
 * What small trees say together (gradient boosting, Friedman 2001): each asks whether a value of a row is above a
 * threshold, goes on to another question or comes to an answer.
 * @param table trees one after the other, {@link TREE_SIZE} numbers each: features of the questions, their thresholds,
 * where those go that are not above it, where those go that are (`n` for question `n`, `-1 - n` for answer `n`), answers.
 */
export function sumOfTrees(row: ArrayLike<number>, table: ArrayLike<number>): number {
  let sum = 0
  for (let tree = 0; tree < table.length; tree += TREE_SIZE) {
    let at = 0
    while (at >= 0) {
      const isAbove = row[table[tree + at]] > table[tree + QUESTIONS + at]
      at = table[tree + (isAbove ? 3 : 2) * QUESTIONS + at]
    }
    sum += table[tree + 4 * QUESTIONS - 1 - at]
  }
  return sum
}
