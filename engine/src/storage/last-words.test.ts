import 'fake-indexeddb/auto'
import { emptySession, type Session } from '@sober-prism/core/session'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { lastWords } from './last-words'
import { SessionKeeper } from './session-keeper'
import { journalSession, leaveSession, loadSession, saveSession } from './sessions'

const start = emptySession('s', 'Start', '2026-03-04T05:06:07.000Z', 48000)
const named = (name: string): Session => ({ ...start, name })

/** A small storage like the browser's, whose keys are its properties. */
function smallStorage(): Storage {
  const held: Record<string, string> = {}
  const methods = {
    getItem: (key: string) => held[key] ?? null,
    setItem: (key: string, value: string) => {
      held[key] = value
    },
    removeItem: (key: string) => {
      delete held[key]
    },
  }
  return new Proxy(methods as unknown as Storage, {
    ownKeys: () => Object.keys(held),
    getOwnPropertyDescriptor: () => ({ enumerable: true, configurable: true }),
  })
}

beforeEach(async () => {
  vi.stubGlobal('localStorage', smallStorage())
  await saveSession(start, 1)
})
afterEach(() => vi.unstubAllGlobals())

describe('the last words of a window', () => {
  it('are what the session opens with, written back, and gone then', async () => {
    await journalSession(named('In the journal'), 2)
    leaveSession(named('Last'), 3)
    expect((await loadSession('s'))?.session.name).toBe('Last')
    expect(lastWords('s')).toEqual([])
    const again = await loadSession('s')
    expect([again?.session.name, again?.rescued]).toEqual(['Last', []])
  })

  it('count for nothing once a newer change is stored', async () => {
    leaveSession(named('Left'), 2)
    await saveSession(named('Stored'), 4)
    expect((await loadSession('s'))?.session.name).toBe('Stored')
  })

  it('are of no harm when they are damaged', async () => {
    localStorage.setItem('sober-prism last words s w', '{"id":"s","docu')
    localStorage.setItem('sober-prism last words s v', '{"change":"x"}')
    expect((await loadSession('s'))?.session.name).toBe('Start')
  })

  it('are left when a window goes while the database takes nothing', async () => {
    const keeper = new SessionKeeper(start, {
      save: () => new Promise(() => {}),
      journal: () => new Promise(() => {}),
      leave: leaveSession,
    })
    keeper.update(named('First'))
    keeper.update(named('Second'))
    keeper.flush()
    expect((await loadSession('s'))?.session.name).toBe('Second')
  })
})
