// @vitest-environment happy-dom
import type { Session } from '@sober-prism/core/session'
import type { SessionKeeper } from '@sober-prism/engine'
import { describe, expect, it, vi } from 'vitest'
import { ImportJobs } from '../jobs/import-jobs'
import { sessionActions } from '../store/session-slice'
import { store } from '../store/store'
import { sessionOf } from '../testing/session'
import { followSession } from './follow-session'

const update = vi.hoisted(() => vi.fn())
vi.mock('@sober-prism/engine', async (original) => {
  const engine = await original<typeof import('@sober-prism/engine')>()
  class FakeDesk {
    update = update
    designProblem = new engine.Signal<string | null>(null)
    analyser = { expectMore() {}, hold() {}, setMono() {} }
    player = { listen() {} }
    async close() {}
  }
  return { ...engine, Desk: FakeDesk }
})

describe('an open session', () => {
  it('keeps every change, also one that cannot be made to sound, and all after it', () => {
    const kept: Session[] = []
    const keeper = { update: (s: Session) => kept.push(s), flush() {}, close: async () => true }
    store.dispatch(sessionActions.opened(sessionOf(['Voice'])))
    const following = followSession(
      keeper as unknown as SessionKeeper,
      new ImportJobs(),
      48_000,
      () => {},
    )
    const fader = (faderDb: number) =>
      store.dispatch(sessionActions.edited([{ kind: 'set-node', node: 't0', change: { faderDb } }]))
    update.mockImplementation((s: Session) => {
      if (s.tracks[0].faderDb === -2) throw new RangeError('no room')
    })
    for (const db of [-1, -2, -3]) fader(db)
    expect(kept.map((s) => s.tracks[0].faderDb)).toEqual([-1, -2, -3])
    // It is told, and sound follows the next change.
    expect(store.getState().interface.notice?.text).toContain('no room')
    expect(update.mock.lastCall?.[0].tracks[0].faderDb).toBe(-3)
    following.stop()
  })
})
