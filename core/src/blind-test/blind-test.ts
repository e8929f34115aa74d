import { seededRandom } from '../audio'

/** `which`: is X the first or the second of two; `better`: which of two unnamed places is liked better. */
export type BlindKind = 'which' | 'better'

/** One of two states, by where it stands in the question. */
export type BlindAnswer = 'first' | 'second'

/**
 * What is behind the unnamed place in each trial, drawn beforehand by fair coins: X, or the place at the left.
 *
 * @param seed of the generator; the same gives the same order
 * @param trials 1 or more
 */
export function blindOrder(seed: number, trials: number): BlindAnswer[] {
  const random = seededRandom(seed)
  // The first numbers of neighbouring seeds are alike.
  for (let i = 0; i < 16; i++) random()
  return Array.from({ length: trials }, () => (random() < 0.5 ? 'first' : 'second'))
}

/** How many answers tell what was there. */
export function rightAnswers(
  order: readonly BlindAnswer[],
  answers: readonly BlindAnswer[],
): number {
  return answers.filter((a, i) => a === order[i]).length
}

/**
 * Chance of someone who guesses to be right as often or more often: the upper tail of the binomial distribution at one
 * half, exact but for rounding.
 *
 * @param right 0 to `trials`
 * @param trials 1 to 1000
 */
export function chanceOfGuessing(right: number, trials: number): number {
  return upperTail(right, trials, 0.5)
}

/** Chance of coins to be as one-sided or more, to either side: for a preference, which was not known beforehand. */
export function chanceOfNoPreference(forOne: number, trials: number): number {
  const most = Math.max(forOne, trials - forOne)
  return Math.min(1, 2 * upperTail(most, trials, 0.5))
}

/** Less than this chance of a guesser counts as having heard a difference: the usual level, 1 in 20. */
const LEVEL = 0.05

/** How often a listener who is right with a chance `p` is found out by so many trials, 0 to 1. */
export function foundOut(trials: number, p: number): number {
  let needed = trials + 1
  while (needed > 0 && chanceOfGuessing(needed - 1, trials) <= LEVEL) needed--
  return needed > trials ? 0 : upperTail(needed, trials, p)
}

/** Chance of `from` or more of `n`, each with a chance `p`. */
function upperTail(from: number, n: number, p: number): number {
  if (from <= 0) return 1
  let sum = 0
  for (let k = from; k <= n; k++) sum += Math.exp(logTerm(n, k, p))
  return Math.min(1, sum)
}

function logTerm(n: number, k: number, p: number): number {
  let log = k * Math.log(p) + (n - k) * Math.log(1 - p)
  for (let i = 1; i <= k; i++) log += Math.log((n - k + i) / i)
  return log
}
