import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Edit } from '../session'
import type { Evidence, Finding } from './finding'
import { rankFindings } from './rank-findings'

const move = { kind: 'change-trim', node: 'b', db: -3 } satisfies Edit
const masks: Evidence = {
  kind: 'masking',
  target: 'a',
  masker: 'b',
  lostSone: 1,
  lostShare: 0.5,
  where: 'middle',
  timeShare: 0.5,
  freed: [],
}
const balanced = (deviationDb: number): Evidence => ({
  kind: 'balance',
  deviationDb,
  toleranceDb: 2.5,
  target: 'references',
  mostly: null,
})
const finding = (
  evidence: Evidence,
  severity: number,
  [fromHz, toHz]: readonly [number, number],
  change: Partial<Finding> = {},
): Finding => ({
  key: `${evidence.kind} ${severity}`,
  kind: evidence.kind,
  tracks: evidence.kind === 'balance' ? [] : ['b', 'a'],
  hz: Math.sqrt(fromHz * toHz),
  fromHz,
  toHz,
  severity,
  evidence,
  times: [],
  offered: true,
  moves: [move],
  predicted: null,
  ...change,
})
const keysOffered = (list: readonly Finding[]) =>
  rankFindings(list).flatMap((f) => (f.offered ? [f.key] : []))

describe('findings in order', () => {
  it('are offered worst first, and what was only measured follows without moves', () => {
    const list = [
      finding(masks, 0.2, [500, 900]),
      finding(masks, 3, [100, 200], { offered: false, moves: [] }),
      finding(masks, 1, [2000, 4000]),
      finding(masks, 0.001, [6000, 8000]),
    ]
    const ranked = rankFindings(list)
    expect(ranked.map((f) => f.severity)).toEqual([1, 0.2, 3])
    expect(ranked.map((f) => f.offered)).toEqual([true, true, false])
  })

  it('tell one place of one sound once', () => {
    const list = [finding(masks, 0.23, [500, 900]), finding(masks, 0.227, [520, 880])]
    expect(keysOffered(list)).toEqual(['masking 0.23'])
    const [, measured] = rankFindings(list)
    expect(measured).toMatchObject({ offered: false, moves: [], predicted: null })
    // Two tracks are two sounds.
    expect(keysOffered([list[0], { ...list[1], tracks: ['c', 'a'] }])).toHaveLength(2)
  })

  it('do not take from a range that another asks more of', () => {
    const dull = finding(balanced(-6), 0.7, [4000, 12000])
    const cut = finding(masks, 0.4, [3500, 6500])
    expect(keysOffered([dull, cut])).toEqual(['balance 0.7'])
    expect(keysOffered([{ ...dull, severity: 0.3 }, cut])).toEqual(['masking 0.4'])
    expect(keysOffered([dull, finding(masks, 0.4, [1000, 3000])])).toHaveLength(2)
    const harsh = (timeShare: number): Evidence => ({ kind: 'harshness', excessDb: 9, timeShare })
    const sharp = finding(harsh(0.5), 0.4, [4000, 8000])
    expect(keysOffered([dull, sharp])).toEqual(['balance 0.7'])
    // Sibilants pass: a band that takes them while they last makes nothing dull.
    expect(keysOffered([dull, finding(harsh(0.08), 0.4, [4000, 8000])])).toHaveLength(2)
  })

  it('do not ask to raise what only seems weak beside what is far too strong', () => {
    const bright = finding(balanced(9), 0.9, [2300, 12500])
    const thin = finding(balanced(-4.3), 1.4, [60, 1400])
    expect(keysOffered([thin, bright])).toEqual(['balance 0.9'])
  })

  it('are few where little is wrong: three, or twice as many as are not small', () => {
    const small = Array.from({ length: 9 }, (_, i) =>
      finding(masks, 0.3 - i / 100, [100 * 1.6 ** i, 150 * 1.6 ** i]),
    )
    const large = Array.from({ length: 3 }, (_, i) =>
      finding(masks, 2 + i, [100 * 1.6 ** i, 150 * 1.6 ** i], { tracks: ['c', 'a'] }),
    )
    expect(keysOffered(small)).toHaveLength(3)
    expect(keysOffered([...large, ...small])).toHaveLength(6)
  })

  it('lose nothing: whatever comes in above the least harm comes out, offered or measured', () => {
    const anyFinding = fc
      .record({
        severity: fc.double({ min: 0.011, max: 5, noNaN: true }),
        from: fc.integer({ min: 40, max: 9000 }),
        width: fc.double({ min: 1.1, max: 4, noNaN: true }),
        what: fc.constantFrom(masks, balanced(5), balanced(-5)),
        offered: fc.boolean(),
      })
      .map(({ severity, from, width, what, offered }) =>
        finding(what, severity, [from, from * width], { offered, moves: offered ? [move] : [] }),
      )
    fc.assert(
      fc.property(fc.array(anyFinding, { maxLength: 12 }), (list) => {
        const ranked = rankFindings(list)
        expect(ranked).toHaveLength(list.length)
        for (const f of ranked) expect(f.moves.length > 0).toBe(f.offered)
        expect(ranked.some((f) => f.offered)).toBe(list.some((f) => f.offered))
      }),
    )
  })
})
