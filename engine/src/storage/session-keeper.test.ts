import 'fake-indexeddb/auto'
import { emptySession, type Session } from '@sober-prism/core/session'
import fc from 'fast-check'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { EngineError } from '../engine-error'
import { database } from './database'
import { type KeeperStorage, SessionKeeper } from './session-keeper'
import { journalSession, listSessions, loadSession, saveSession } from './sessions'

const start = emptySession('s', 'State 0', '2026-03-04T05:06:07.000Z', 48000)
const state = (n: number): Session => ({ ...start, name: `State ${n}` })
const numberOf = (session: Session) => Number(/\d+/.exec(session.name)?.[0])
/** The storage in these tests goes on by one step in each turn. */
const { setImmediate } = globalThis as unknown as { setImmediate(next: () => void): void }
const turns = async (count: number) => {
  for (let i = 0; i < count; i++) await new Promise<void>((resolve) => setImmediate(resolve))
}

async function empty(): Promise<void> {
  const db = await database()
  for (const store of ['sessions', 'journal', 'versions'] as const) await db.clear(store)
}

beforeEach(empty)

describe('a session keeper', () => {
  it('tells how the newest state is kept, and tries again what was refused', async () => {
    vi.useFakeTimers()
    let full = true
    const kept: string[] = []
    const storage: KeeperStorage = {
      async save({ name }) {
        if (full) throw new EngineError('The disk is full.')
        kept.push(name)
      },
      async journal() {
        throw new EngineError('The disk is full.')
      },
    }
    const keeper = new SessionKeeper(start, storage)
    expect(keeper.state.value.kind).toBe('kept')
    keeper.update(state(1))
    expect(keeper.state.value.kind).toBe('under way')
    await vi.advanceTimersByTimeAsync(400)
    expect(keeper.state.value).toEqual({
      kind: 'refused',
      sentence: 'The disk is full.',
      conflict: false,
    })
    expect(keeper.atRisk).toBe(true)
    // The mark stays while one goes on working.
    keeper.update(state(2))
    expect(keeper.state.value.kind).toBe('refused')
    full = false
    await vi.advanceTimersByTimeAsync(5000)
    expect(keeper.state.value.kind).toBe('kept')
    expect(kept.at(-1)).toBe('State 2')
    expect(keeper.atRisk).toBe(false)
    vi.useRealTimers()
  })

  it('stores changes that come while it is storing', async () => {
    await saveSession(start)
    await loadSession('s')
    const keeper = new SessionKeeper(start)
    keeper.update(state(1))
    const saving = keeper.save()
    keeper.update(state(2))
    await saving
    expect(await keeper.close()).toBe(true)
    expect((await loadSession('s'))?.session.name).toBe('State 2')
  })

  it('loses nothing of what it was given when the window goes at any of 200 moments', async () => {
    for (let moment = 0; moment < 200; moment++) {
      await empty()
      await saveSession(start)
      await loadSession('s')
      let noted = 0
      const keeper = new SessionKeeper(start, {
        save: saveSession,
        async journal(document, change) {
          await journalSession(document, change)
          noted = Math.max(noted, numberOf(document))
        },
      })
      let dead = false
      const work = (async () => {
        for (let n = 1; n <= 6 && !dead; n++) {
          keeper.update(state(n))
          await turns(moment % 5)
          // A save in between, as the timer would start it.
          if (n % 3 === 0) void keeper.save()
        }
      })()
      await turns(Math.floor(moment / 5))
      dead = true
      const acknowledged = noted
      await work
      const opened = await loadSession('s')
      expect(numberOf(opened?.session ?? start)).toBeGreaterThanOrEqual(acknowledged)
      expect(opened?.rescued).toEqual([])
      await keeper.close()
    }
  })
})

/** Makes the `nth` call of the storage from now on fail; the result tells how many there were. */
function failNth(nth: number): { readonly calls: () => number; end(): void } {
  let calls = 0
  const ends: (() => void)[] = []
  for (const name of ['put', 'get', 'delete', 'getAll'] as const) {
    const real = IDBObjectStore.prototype[name] as (...args: unknown[]) => IDBRequest
    const spy = vi.spyOn(IDBObjectStore.prototype, name).mockImplementation(function (
      this: IDBObjectStore,
      ...args: unknown[]
    ) {
      if (++calls === nth) throw new DOMException('No room.', 'QuotaExceededError')
      return real.apply(this, args)
    })
    ends.push(() => spy.mockRestore())
  }
  return {
    calls: () => calls,
    end() {
      for (const end of ends) end()
    },
  }
}

describe('storage that fails', () => {
  const scenario = async (): Promise<{ shown: number; risk: boolean }> => {
    const loaded = await loadSession('s').catch(() => null)
    if (!loaded) return { shown: 0, risk: false }
    const keeper = new SessionKeeper(loaded.session)
    let shown = numberOf(loaded.session)
    for (let n = 1; n <= 3; n++) {
      shown = 10 + n
      keeper.update(state(shown))
      await turns(2)
      await keeper.save()
    }
    return { shown, risk: keeper.atRisk }
  }

  it('at any one call leaves a session that opens, with everything that was not told to be at risk', async () => {
    await saveSession(start)
    const count = failNth(0)
    await scenario()
    count.end()
    expect(count.calls()).toBeGreaterThan(20)
    for (let nth = 1; nth <= count.calls(); nth++) {
      await empty()
      await saveSession(state(0))
      const failing = failNth(nth)
      const { shown, risk } = await scenario()
      failing.end()
      const opened = await loadSession('s')
      if (!opened) throw new Error(`The session is gone after call ${nth} failed.`)
      if (!risk) expect(numberOf(opened.session)).toBeGreaterThanOrEqual(shown)
    }
  })
})

describe('two windows', () => {
  /** The modules of another window over the same storage. */
  async function otherWindow() {
    vi.resetModules()
    const sessions = await import('./sessions')
    const { SessionKeeper: Keeper } = await import('./session-keeper')
    return { sessions, Keeper }
  }

  /** A keeper that does nothing any more once its window is gone. */
  function mortal(
    session: Session,
    sessions: Pick<typeof import('./sessions'), 'saveSession' | 'journalSession'>,
    Keeper: typeof SessionKeeper,
  ) {
    let alive = true
    const forever = new Promise<void>(() => {})
    const keeper = new Keeper(session, {
      save: (...args) => (alive ? sessions.saveSession(...args) : forever),
      journal: (...args) => (alive ? sessions.journalSession(...args) : forever),
    })
    return Object.assign(keeper, {
      die: () => {
        alive = false
      },
    })
  }

  it('of one session lose no change, whatever their order: it is stored, rescued, or told', async () => {
    const here = { sessions: { loadSession, saveSession, journalSession }, Keeper: SessionKeeper }
    const windows = [here, await otherWindow()]
    const steps = fc.array(
      fc.record({
        window: fc.nat(1),
        what: fc.constantFrom('open', 'edit', 'edit', 'save', 'crash'),
      }),
      { maxLength: 16 },
    )
    let n = 0
    await fc.assert(
      fc.asyncProperty(steps, async (list) => {
        await empty()
        await saveSession(state(0))
        const keepers: (ReturnType<typeof mortal> | null)[] = [null, null]
        const shown = [0, 0]
        /** From which state each was made. */
        const madeFrom = new Map<number, number>()
        /** States that were said to be kept: they, or what was made from them, must be found at the end. */
        const owed = new Set<number>()
        for (const { window, what } of list) {
          const keeper = keepers[window]
          if (what === 'open' && !keeper) {
            const loaded = await windows[window].sessions.loadSession('s')
            if (!loaded) throw new Error('The session is gone.')
            const { sessions, Keeper } = windows[window]
            keepers[window] = mortal(loaded.session, sessions, Keeper)
            shown[window] = numberOf(loaded.session)
          } else if (what === 'edit' && keeper) {
            madeFrom.set(++n, shown[window])
            shown[window] = n
            keeper.update(state(n))
            await turns(2)
          } else if (what === 'save' && keeper) {
            const done = await keeper.save()
            expect(done || keeper.state.value.kind === 'refused').toBe(true)
            if (done) owed.add(shown[window])
          } else if (what === 'crash' && keeper) {
            await turns(3)
            if (!keeper.atRisk) owed.add(shown[window])
            keepers[window]?.die()
            keepers[window] = null
          }
        }
        await turns(3)
        // Both windows go; then one looks at what there is.
        keepers.forEach((keeper, w) => {
          if (keeper && !keeper.atRisk) owed.add(shown[w])
          keeper?.die()
        })
        await loadSession('s')
        const found = new Set<number>()
        for (const { id } of await listSessions()) {
          const loaded = await loadSession(id)
          for (let at = numberOf(loaded?.session ?? start); Number.isFinite(at); ) {
            found.add(at)
            at = madeFrom.get(at) ?? Number.NaN
          }
        }
        for (const state of owed) expect(found).toContain(state)
      }),
      { numRuns: 60 },
    )
  })
})
