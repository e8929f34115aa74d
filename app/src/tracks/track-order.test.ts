import { applyEdits, type Edit, ROLES } from '@sober-prism/core/session'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { sessionOf } from '../testing/session'
import { foldedGroups, type TrackView, trackRows } from './track-order'

const plain: TrackView = { order: 'hand', filter: '', folded: [], lostSone: () => 0 }

/** Eight tracks, some of them in groups, and groups in groups. */
const sessions = fc
  .array(fc.tuple(fc.nat(7), fc.constantFrom('g', 'h', 'i')), { maxLength: 10 })
  .map((moves) => {
    const groups = ['g', 'h', 'i'].map(
      (id): Edit => ({ kind: 'add-group', id, name: `Group ${id}`, members: [] }),
    )
    const nested: Edit[] = [{ kind: 'set-output', node: 'i', output: 'g' }]
    const outputs = moves.map(
      ([t, output]): Edit => ({ kind: 'set-output', node: `t${t}`, output }),
    )
    const names = Array.from({ length: 8 }, (_, i) => `Track ${i}`)
    return applyEdits(sessionOf(names), [...groups, ...nested, ...outputs])
  })

describe('the list of tracks', () => {
  it('holds every track and group once, in any order', () => {
    fc.assert(
      fc.property(sessions, fc.constantFrom('hand', 'role', 'lost'), (session, order) => {
        const ids = trackRows(session, { ...plain, order }).map((r) => r.node.id)
        const all = [...session.tracks, ...session.groups].map((n) => n.id)
        expect([...ids].sort()).toEqual(all.sort())
      }),
    )
  })

  it('shows a group’s members right under it, deeper, and none of them when it is folded', () => {
    fc.assert(
      fc.property(sessions, (session) => {
        const rows = trackRows(session, plain)
        const outputOf = new Map(
          [...session.tracks, ...session.groups].map((n) => [n.id, n.output]),
        )
        rows.forEach((row, i) => {
          if (row.depth === 0) return
          const parent = rows.slice(0, i).findLast((r) => r.depth === row.depth - 1)
          expect(parent?.node.id).toBe(outputOf.get(row.node.id))
        })
        const folded = trackRows(session, { ...plain, folded: ['g', 'h', 'i'] })
        expect(folded.every((r) => r.depth === 0)).toBe(true)
      }),
    )
  })

  it('has its groups folded where there are many tracks, but for that of the chosen one', () => {
    const names = (count: number) => Array.from({ length: count }, (_, i) => `Track ${i}`)
    const groups = ['g', 'h'].map(
      (id, i): Edit => ({ kind: 'add-group', id, name: id, members: [`t${i}`] }),
    )
    const many = applyEdits(sessionOf(names(24)), groups)
    expect(foldedGroups(many, null, 't5')).toEqual(['g', 'h'])
    expect(foldedGroups(many, null, 't1')).toEqual(['g'])
    expect(foldedGroups(many, [], 't5')).toEqual([])
    expect(foldedGroups(applyEdits(sessionOf(names(22)), groups), null, 't5')).toEqual([])
    const found = trackRows(many, { ...plain, filter: 'track 1', folded: ['g', 'h'] })
    expect(found.map((r) => r.node.name)).toContain('Track 1')
  })

  it('stands by role, and by what is lost, worst first', () => {
    const session = sessionOf(['Voice', 'B', 'C'])
    const lostSone = (id: string) => ({ t0: 1, t1: 5, t2: 3 })[id] ?? 0
    const byLoss = trackRows(session, { ...plain, order: 'lost', lostSone })
    expect(byLoss.map((r) => r.node.id)).toEqual(['t1', 't2', 't0'])
    const roles = trackRows(session, { ...plain, order: 'role' }).map((r) =>
      r.kind === 'track' ? ROLES.indexOf(r.node.role) : -1,
    )
    expect([...roles].sort((a, b) => a - b)).toEqual(roles)
  })

  it('is narrowed by name, letter or role, whatever the case', () => {
    const session = sessionOf(['Lead', 'Kick in', 'Kick out'])
    const found = (filter: string) =>
      trackRows(session, { ...plain, filter }).map((r) => r.node.name)
    expect(found('kick')).toEqual(['Kick in', 'Kick out'])
    expect(found('VOICE')).toEqual(['Lead'])
    expect(found(' out ')).toEqual(['Kick out'])
    expect(found('nothing')).toEqual([])
  })
})
