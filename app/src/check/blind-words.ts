import {
  blindOrder,
  chanceOfGuessing,
  chanceOfNoPreference,
  foundOut,
  rightAnswers,
} from '@sober-prism/core/blind-test'
import type { BlindTest } from '@sober-prism/core/session'

/** Less than this chance of a guesser counts: the usual level, 1 in 20. */
const LEVEL = 0.05
/** How often a listener is right whom a test should find out. */
const SHARE = 0.75
/** A test that finds him out more rarely than this is told to be short. */
const ENOUGH = 0.8

export interface BlindVerdict {
  /** What was answered, as figures. */
  readonly score: string
  /** How likely that is by chance. */
  readonly odds: string
  /** What it says. */
  readonly verdict: string
}

/** What a test says, read rightly by someone who knows no statistics; and that it says little, where it does. */
export function blindVerdict(test: BlindTest): BlindVerdict {
  const { kind, trials, answers, first, second, seed } = test
  if (answers.length < trials) {
    return { score: `left after ${answers.length} of ${trials}`, odds: 'not counted', verdict: '' }
  }
  if (kind === 'which') {
    const right = rightAnswers(blindOrder(seed, trials), answers)
    const chance = chanceOfGuessing(right, trials)
    return {
      score: `${right} of ${trials} right`,
      odds: `Someone who guesses does as well ${oddsText(chance)}.`,
      verdict:
        chance <= LEVEL
          ? 'You hear the difference.'
          : `Not told from guessing.${shortText(trials)}`,
    }
  }
  const forSecond = answers.filter((a) => a === 'second').length
  const most = Math.max(forSecond, trials - forSecond)
  const liked = forSecond * 2 >= trials ? second : first
  const chance = chanceOfNoPreference(forSecond, trials)
  return {
    score: `${most} of ${trials} for ${liked.name}`,
    odds: `Coins are as one-sided ${oddsText(chance)}.`,
    verdict:
      chance <= LEVEL ? `You prefer ${liked.name}.` : `No preference shown.${shortText(trials)}`,
  }
}

function oddsText(chance: number): string {
  if (chance >= 0.995) return 'always'
  return chance < 0.2
    ? `once in ${Math.round(1 / chance)} tries`
    : `${Math.round(100 * chance)} times in 100`
}

function shortText(trials: number): string {
  const found = foundOut(trials, SHARE)
  return found >= ENOUGH ? '' : ` ${trials} trials are few: ${powerText(trials)}`
}

/** How much so many trials can tell. */
export function powerText(trials: number): string {
  const found = Math.round(100 * foundOut(trials, SHARE))
  return `a listener who is right three times of four is found out by ${trials} trials in ${found} of 100 tests.`
}
