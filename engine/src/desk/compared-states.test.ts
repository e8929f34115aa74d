import { newBand } from '@sober-prism/core/filters'
import {
  AS_IT_CAME,
  applyEdits,
  type Edit,
  emptySession,
  newTrack,
  type Session,
} from '@sober-prism/core/session'
import { newChainBand } from '@sober-prism/core/treatments'
import { describe, expect, it } from 'vitest'
import { SESSION } from '../sound/player'
import { ComparedStates, fingerprintOf, gainsToQuietest, stateAt } from './compared-states'

const keep = (id: string): Edit => ({
  kind: 'keep-variation',
  id,
  name: id,
  keptAt: '2026-05-06T07:08:09.000Z',
})
const bell = (id: string): Edit => ({
  kind: 'add-band',
  node: 't',
  stage: 'shape',
  treatment: null,
  newTreatment: `e${id}`,
  chainBand: newChainBand(id, { ...newBand('bell', 700), db: -3 }),
})
function sessionWith(count: number): Session {
  const audio = { hash: '1'.repeat(64), channels: 1, frames: 100 }
  const empty = emptySession('s', 'S', '2026-05-06T07:08:09.000Z', 48_000)
  const start = { ...empty, tracks: [newTrack('t', 'T', 'other', 'A', audio)] }
  const ids = Array.from({ length: count }, (_, i) => `v${i + 1}`)
  return ids.reduce((at, id) => applyEdits(at, [keep(id), bell(id)]), start)
}
const bandsOf = (session: Session) => session.tracks[0].chain.treatments.length

describe('states that are compared', () => {
  it('are as loud as the quietest, and none is raised', () => {
    const gains = gainsToQuietest(
      new Map([
        ['a', -20],
        ['b', -23.5],
        ['c', null],
        ['d', -18],
      ]),
    )
    expect([...gains]).toEqual([
      ['a', -3.5],
      ['b', 0],
      ['c', 0],
      ['d', -5.5],
    ])
  })

  it('run four at most, what is heard among them; all are measured, once for each state', async () => {
    const session = sessionWith(6)
    const measured: Session[] = []
    const states = new ComparedStates(async (of) => {
      measured.push(of)
      return -20 - bandsOf(of)
    })
    const ids = [AS_IT_CAME, 'v1', 'v2', 'v3', 'v4', 'v5', 'v6']
    states.hold(ids)
    expect([...states.playedBeside(session).keys()]).toHaveLength(4)
    states.run('v5')
    states.run('v4')
    const names = [...states.playedBeside(session).keys()]
    expect(names).toEqual(expect.arrayContaining(['variation v5', 'variation v4']))
    expect(names).toHaveLength(4)
    expect(states.known(session)).toBeNull()
    const loudness = await states.read(session)
    expect(loudness.get(AS_IT_CAME)).toBe(-20)
    expect(loudness.get('v1')).toBe(-21)
    expect(measured).toHaveLength(7)
    expect(states.known(session)).toBe(loudness)
    expect(states.known(applyEdits(session, [bell('x')]))).toBeNull()
    // The one that is worked in is the session itself.
    expect(ComparedStates.nameOf(session, 'v6')).toBe(SESSION)
    states.hold([])
    expect(states.playedBeside(session).size).toBe(0)
  })
})

describe('a blind test', () => {
  it('has the same two states at the places that are named and at those that are not', () => {
    const pair = { first: 'a', second: 'b', hidden: 'second' } as const
    const places = ['first', 'second', 'hidden', 'other'] as const
    expect(places.map((place) => stateAt(pair, place))).toEqual(['a', 'b', 'b', 'a'])
    const turned = { ...pair, hidden: 'first' } as const
    expect(places.map((place) => stateAt(turned, place))).toEqual(['a', 'b', 'a', 'b'])
  })

  it('knows a state again until something of it changes, but for what is only listened to', () => {
    const session = sessionWith(2)
    const print = fingerprintOf(session)
    const change = (edit: Edit) => fingerprintOf(applyEdits(session, [edit]))
    expect(change({ kind: 'set-node', node: 't', change: { solo: true, name: 'Else' } })).toBe(
      print,
    )
    expect(change({ kind: 'set-node', node: 't', change: { faderDb: -1 } })).not.toBe(print)
    expect(change(bell('more'))).not.toBe(print)
  })
})
