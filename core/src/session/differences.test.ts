import { describe, expect, it } from 'vitest'
import { newBand } from '../filters'
import { sessionOf } from '../testing/sessions'
import { newChainBand, newTreatment } from '../treatments'
import { applyEdits, type Edit, greatestBoostDb, stateDifferences, traitWords } from './index'

const band = (node: string, id: string, hz: number, db: number): Edit => ({
  kind: 'add-band',
  node,
  stage: 'shape',
  treatment: null,
  newTreatment: `e-${id}`,
  chainBand: newChainBand(id, { ...newBand('bell', hz), db }),
})

describe('what differs between two states', () => {
  it('is told node by node, band by band, and only what differs', () => {
    const start = applyEdits(sessionOf(['a', 'b', 'c']), [band('a', 'one', 300, -3)])
    const first = applyEdits(start, [
      band('a', 'two', 900, -2),
      { kind: 'set-node', node: 'c', change: { mute: true } },
    ])
    const second = applyEdits(start, [
      band('a', 'three', 2000, 4),
      { kind: 'set-node', node: 'b', change: { faderDb: -6 } },
      {
        kind: 'add-treatment',
        node: 'mix',
        treatment: newTreatment('drive', 'd', 'shape'),
        before: null,
      },
    ])
    const found = stateDifferences(first, second)
    const told = found.map((d) => [d.name, d.inFirst.map((t) => t.of), d.inSecond.map((t) => t.of)])
    expect(told).toEqual([
      ['a', ['band'], ['band']],
      ['b', ['fader'], ['fader']],
      ['c', ['mute'], []],
      ['Mix', [], ['treatment']],
    ])
    expect(found[0].inSecond[0]).toMatchObject({ band: { hz: 2000, db: 4 } })
    expect([greatestBoostDb(first), greatestBoostDb(second)]).toEqual([0, 4])
    expect(stateDifferences(first, first)).toEqual([])
  })

  it('has groups that only one of them has, and not by whom or why a move was made', () => {
    const start = sessionOf(['a'])
    const first = applyEdits(start, [band('a', 'one', 300, -3)])
    const second = applyEdits(start, [
      band('a', 'other', 300, -3),
      {
        kind: 'set-band',
        node: 'a',
        treatment: 'e-other',
        band: 'other',
        change: { reason: 'Boxy' },
      },
    ])
    expect(stateDifferences(first, second)).toEqual([])
    const grouped = applyEdits(second, [
      { kind: 'add-group', id: 'g', name: 'All', members: ['a'] },
    ])
    expect(stateDifferences(first, grouped).map((d) => d.name)).toEqual(['a', 'All'])
  })
})

describe('what a node has, in words', () => {
  it('is short and has its figures', () => {
    const cut = { ...newBand('low-cut', 147), slopeDbPerOct: 24 as const }
    expect(traitWords({ of: 'band', band: cut, on: false })).toBe('low cut 147 Hz (off)')
    const bell = { ...newBand('bell', 2761), db: 3, q: 0.7 }
    expect(traitWords({ of: 'band', band: bell, on: true })).toBe('bell 2.76 kHz +3.0 dB, Q 0.7')
    expect(traitWords({ of: 'pan', pan: -0.5 })).toBe('pan 50 % left')
    expect(traitWords({ of: 'chain-output', gainDb: -2, inverted: true })).toBe(
      'output -2.0 dB, inverted',
    )
    const treatment = newTreatment('drive', 'd', 'shape')
    expect(traitWords({ of: 'treatment', treatment })).toMatch(/^Saturation: /)
  })
})
