import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Edit } from '../../session'
import type { Finding } from '../finding'
import { winnablePlaces } from './winnable-places'

const cut = { kind: 'change-trim', node: 'b', db: -3 } satisfies Edit

const masking = (severity: number, change: Partial<Finding> = {}): Finding => ({
  key: `k${severity}`,
  kind: 'masking',
  tracks: ['b', 'a'],
  hz: 1000,
  fromHz: 800,
  toHz: 1200,
  severity,
  evidence: {
    kind: 'masking',
    target: 'a',
    masker: 'b',
    lostSone: severity,
    lostShare: 0.5,
    where: 'middle',
    timeShare: 0.5,
    freed: [],
  },
  times: [],
  offered: true,
  moves: [cut],
  predicted: null,
  ...change,
})

describe('places that can be won', () => {
  it('are few whatever is found, the worst among them, and no small ones beside a great one', () => {
    const harms = fc.array(fc.double({ min: 0.01, max: 20, noNaN: true }), { maxLength: 80 })
    fc.assert(
      fc.property(harms, (list) => {
        const places = winnablePlaces(list.map((s) => masking(s)))
        expect(places.length).toBeLessThanOrEqual(4)
        expect(places.length > 0).toBe(list.length > 0)
        for (const { weight } of places) expect(weight).toBeGreaterThanOrEqual(0.1)
        if (places.length > 0) expect(places[0].weight).toBe(1)
      }),
    )
  })

  it('are none where no move was found, or nothing is covered', () => {
    const ring: Finding['evidence'] = {
      kind: 'resonance',
      heightDb: 9,
      q: 20,
      likelihood: 0.9,
      decayRatio: 2,
    }
    expect(winnablePlaces([masking(2, { moves: [] })])).toEqual([])
    expect(winnablePlaces([masking(2, { kind: 'resonance', evidence: ring })])).toEqual([])
  })
})
