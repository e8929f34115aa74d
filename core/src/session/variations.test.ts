import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { newBand } from '../filters'
import { sessionOf } from '../testing/sessions'
import { MIX, newChainBand, newTreatment } from '../treatments'
import {
  AS_IT_CAME,
  applyEdits,
  checkSession,
  type Edit,
  type Session,
  sessionInVariation,
  workedIn,
  writeSession,
} from './index'

const keep = (id: string): Edit => ({
  kind: 'keep-variation',
  id,
  name: `Way ${id}`,
  keptAt: '2026-05-06T07:08:09.000Z',
})
const workIn = (variation: string): Edit => ({ kind: 'work-in-variation', variation })
const bell = (node: string, id: string, db: number): Edit => ({
  kind: 'add-band',
  node,
  stage: 'shape',
  treatment: null,
  newTreatment: `e-${id}`,
  chainBand: newChainBand(id, { ...newBand('bell', 700), db }),
})
const fader = (node: string, faderDb: number): Edit => ({
  kind: 'set-node',
  node,
  change: { faderDb },
})
/** What of a session a variation holds. */
const stateOf = ({ tracks, groups, mix }: Session) => ({ tracks, groups, mix })
const start = () => sessionOf(['t0', 't1', 't2'])

describe('variations', () => {
  it('are worked in one at a time, and each is as it was left', () => {
    const first = applyEdits(start(), [bell('t0', 'b1', -3), keep('one')])
    expect(first.variations.list.map((v) => [v.number, v.state])).toEqual([[1, null]])
    const second = applyEdits(first, [keep('two'), bell('t1', 'b2', 2), fader('t2', -6)])
    expect(workedIn(second)?.id).toBe('two')
    expect(stateOf(sessionInVariation(second, 'one'))).toEqual(stateOf(first))
    expect(sessionInVariation(second, 'two')).toBe(second)
    const back = applyEdits(second, [workIn('one')])
    expect(stateOf(back)).toEqual(stateOf(first))
    expect(stateOf(sessionInVariation(back, 'two'))).toEqual(stateOf(second))
    expect(checkSession(JSON.parse(writeSession(back)))).toEqual(back)
  })

  it('lead back to what stood, whatever was done in between', () => {
    const change = fc.oneof(
      fc
        .tuple(fc.constantFrom('t0', 't1', 't2', MIX), fc.integer({ min: -20, max: 5 }))
        .map(([node, db]) => fader(node, db)),
      fc
        .tuple(fc.constantFrom('t0', 't1', MIX), fc.uuid(), fc.integer({ min: -9, max: 9 }))
        .map(([node, id, db]) => bell(node, id, db)),
      fc.constant<Edit>({ kind: 'add-group', id: 'g', name: 'All', members: ['t0', 't1'] }),
      fc.constant<Edit>({ kind: 'remove-node', node: 'g' }),
    )
    const changes = fc.array(change, { maxLength: 8 })
    fc.assert(
      fc.property(changes, changes, changes, (a, b, c) => {
        const tried = (session: Session, list: Edit[]) =>
          list.reduce((at, edit) => {
            try {
              return applyEdits(at, [edit])
            } catch {
              return at
            }
          }, session)
        const one = applyEdits(tried(start(), a), [keep('one')])
        const two = tried(applyEdits(one, [keep('two')]), b)
        const three = tried(applyEdits(two, [keep('three')]), c)
        const home = applyEdits(three, [workIn('one'), workIn('two')])
        expect(stateOf(home)).toEqual(stateOf(two))
        expect(stateOf(sessionInVariation(home, 'one'))).toEqual(stateOf(one))
        expect(stateOf(sessionInVariation(home, 'three'))).toEqual(stateOf(three))
        expect(checkSession(JSON.parse(writeSession(home)))).toEqual(home)
      }),
      { numRuns: 60 },
    )
  })

  it('have beside them the session as it came: no chain, no fader, no group', () => {
    const made = applyEdits(start(), [
      bell('t0', 'b', -3),
      fader('t1', -8),
      { kind: 'add-group', id: 'g', name: 'All', members: ['t0'] },
      { kind: 'set-node', node: 't2', change: { mute: true, pan: 0.4, trimDb: 3 } },
    ])
    expect(stateOf(sessionInVariation(made, AS_IT_CAME))).toEqual(stateOf(start()))
  })

  it('play what came in later as it is now, and without what is gone', () => {
    const ducked: Edit = {
      kind: 'add-treatment',
      node: 't1',
      treatment: {
        ...newTreatment('duck', 'd', 'fit'),
        key: { node: 't0', tap: 'after-fader', as: 'mono' },
      },
      before: null,
    }
    const arrival = {
      id: 'late',
      name: 'Late',
      role: 'other',
      audio: { hash: '1'.repeat(64), channels: 1, frames: 100 },
      timeStampSeconds: null,
    } as const
    const made = applyEdits(start(), [
      ducked,
      keep('one'),
      keep('two'),
      { kind: 'remove-node', node: 't0' },
      { kind: 'add-tracks', tracks: [arrival] },
      fader('late', -4),
    ])
    const one = sessionInVariation(made, 'one')
    expect(one.tracks.map((t) => [t.id, t.faderDb])).toEqual([
      ['t1', 0],
      ['t2', 0],
      ['late', -4],
    ])
    expect(one.tracks[0].chain.treatments.map((t) => [t.kind, t.key])).toEqual([['duck', null]])
    expect(checkSession(JSON.parse(writeSession(one)))).toEqual(one)
  })

  it('give single tracks away', () => {
    const made = applyEdits(start(), [
      bell('t0', 'b', -3),
      keep('one'),
      keep('two'),
      { kind: 'remove-band', node: 't0', treatment: 'e-b', band: 'b' },
      fader('t0', -9),
      fader('t1', -5),
      { kind: 'take-from-variation', variation: 'one', node: 't0' },
    ])
    expect(made.tracks[0]).toEqual(sessionInVariation(made, 'one').tracks[0])
    expect(made.tracks[1].faderDb).toBe(-5)
  })

  it('are nine at most, keep their numbers, and store each chain once', () => {
    const names = Array.from({ length: 24 }, (_, i) => `t${i}`)
    let session = applyEdits(
      sessionOf(names),
      names.flatMap((name, i) => [1, 2, 3, 4].map((n) => bell(name, `b${n}`, -n - i / 100))),
    )
    const before = writeSession(session).length
    session = applyEdits(session, [keep('v1')])
    for (let n = 2; n <= 9; n++) {
      // From the first on, six tracks are worked on in each.
      const edits = [0, 1, 2, 3, 4, 5].map((k) => bell(`t${(3 * n + k) % 24}`, `v${n}-${k}`, -2))
      session = applyEdits(session, [workIn('v1'), keep(`v${n}`), ...edits])
    }
    expect(writeSession(session).length - before).toBeLessThan(300_000)
    expect(() => applyEdits(session, [keep('more')])).toThrow(/up to 9 variations/)
    const removed = applyEdits(session, [{ kind: 'remove-variation', variation: 'v4' }])
    expect(removed.variations.list.map((v) => v.number)).toEqual([1, 2, 3, 5, 6, 7, 8, 9])
    expect(Object.keys(removed.variations.chains).length).toBeLessThan(
      Object.keys(session.variations.chains).length,
    )
    const again = applyEdits(removed, [keep('new')])
    expect(again.variations.list[3]).toMatchObject({ id: 'new', number: 4 })
    // The one that is worked in stays.
    expect(applyEdits(again, [{ kind: 'remove-variation', variation: 'new' }])).toEqual(again)
  })
})

describe('blind tests', () => {
  it('keep each answer that was given, and no more than there are trials', () => {
    const state = { id: 'one', name: 'One', state: 'x' }
    const test = {
      id: 'test',
      kind: 'which',
      first: state,
      second: { ...state, id: 'two' },
      trials: 2,
      seed: 9,
      answers: [],
      beganAt: '2026-05-06T07:08:09.000Z',
    } as const
    const given = (...answers: ('first' | 'second')[]): Edit => ({
      kind: 'keep-blind-test',
      test: { ...test, answers },
    })
    const made = applyEdits(start(), [given(), given('first'), given('second', 'second')])
    expect(made.blindTests.map((t) => t.answers)).toEqual([['first', 'second']])
    expect(() => applyEdits(made, [given('first', 'first', 'first')])).toThrow(/each trial/)
    expect(applyEdits(made, [{ kind: 'remove-blind-test', test: 'test' }]).blindTests).toEqual([])
  })
})
