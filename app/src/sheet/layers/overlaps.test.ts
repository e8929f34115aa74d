import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { overlaps } from './overlaps'

describe('where a key meets what yields to it', () => {
  it('is where both sound, and the other comes near it or lies over it', () => {
    const key = [-20, -20, -20, -60, -200]
    const own = [-40, -25, -10, -60, -20]
    expect(overlaps(key, own, 0)).toEqual([
      { band: 1, levelDb: -25 },
      { band: 2, levelDb: -20 },
    ])
  })

  it('is nowhere while one of them is silent', () => {
    const level = fc.double({ min: -120, max: 0, noNaN: true })
    fc.assert(
      fc.property(fc.array(level, { minLength: 1, maxLength: 60 }), (levels) => {
        const silent = levels.map(() => -200)
        expect(overlaps(silent, levels, 0)).toEqual([])
        expect(overlaps(levels, silent, 0)).toEqual([])
      }),
    )
  })
})
