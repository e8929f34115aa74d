import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { blindOrder, chanceOfGuessing, chanceOfNoPreference, foundOut, rightAnswers } from './index'

/** Ways to be right k or more times, counted with whole numbers. */
function counted(k: number, n: number): number {
  let ways = 0n
  let term = 1n
  for (let i = 0; i <= n; i++) {
    if (i >= k) ways += term
    term = (term * BigInt(n - i)) / BigInt(i + 1)
  }
  return Number((ways * 10n ** 18n) / 2n ** BigInt(n)) / 1e18
}

describe('chances of a guesser', () => {
  // Cumulative binomial probabilities at p = 0.5, to the four places that printed tables give
  // (NIST/SEMATECH e-Handbook of Statistical Methods, section 1.3.6.6.18, names the distribution).
  it.each([
    [10, 9, 0.0107],
    [10, 8, 0.0547],
    [12, 10, 0.0193],
    [16, 12, 0.0384],
    [20, 15, 0.0207],
    [24, 17, 0.032],
  ])('of %i trials, %i or more right: %f', (trials, right, chance) => {
    expect(chanceOfGuessing(right, trials)).toBeCloseTo(chance, 4)
  })

  it('are those that whole numbers count, for any number of trials', () => {
    const cases = fc
      .integer({ min: 1, max: 200 })
      .chain((n) => fc.tuple(fc.constant(n), fc.integer({ min: 0, max: n })))
    fc.assert(
      fc.property(cases, ([n, k]) => {
        expect(chanceOfGuessing(k, n)).toBeCloseTo(counted(k, n), 10)
        const two = Math.min(1, 2 * counted(Math.max(k, n - k), n))
        expect(chanceOfNoPreference(k, n)).toBeCloseTo(two, 10)
      }),
    )
  })

  it('tell 11 of 12 as once in 315 tries, and an even preference as nothing', () => {
    expect(1 / chanceOfGuessing(11, 12)).toBeCloseTo(4096 / 13, 6)
    expect(chanceOfNoPreference(6, 12)).toBe(1)
    expect(chanceOfNoPreference(2, 12)).toBeCloseTo(chanceOfNoPreference(10, 12), 12)
  })

  it('find a listener out who is right three times of four more often with more trials', () => {
    const found = [8, 12, 16, 24].map((n) => foundOut(n, 0.75))
    expect(found).toEqual([...found].sort((a, b) => a - b))
    expect(found[1]).toBeCloseTo(0.3907, 3)
    expect(found[3]).toBeCloseTo(0.7662, 3)
    expect(foundOut(4, 0.99)).toBe(0)
  })
})

describe('the order of a test', () => {
  it('is the same for a seed, and even over seeds and trials', () => {
    expect(blindOrder(7, 24)).toEqual(blindOrder(7, 24))
    const orders = Array.from({ length: 500 }, (_, seed) => blindOrder(seed, 12))
    for (let trial = 0; trial < 12; trial++) {
      const firsts = orders.filter((o) => o[trial] === 'first').length
      expect(Math.abs(firsts - 250)).toBeLessThan(50)
    }
    const repeats = orders.flatMap((o) => o.slice(1).map((a, i) => a === o[i]))
    expect(repeats.filter(Boolean).length / repeats.length).toBeCloseTo(0.5, 1)
  })

  it('counts what was told rightly', () => {
    expect(rightAnswers(['first', 'second', 'second'], ['first', 'first', 'second'])).toBe(2)
  })
})
