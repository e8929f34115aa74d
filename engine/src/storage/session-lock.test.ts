import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { SessionLock } from './session-lock'

/** Locks as a browser grants them: one holder by name, those that wait in their order, and one may be taken by force. */
class FakeLocks {
  #held: { lost: (reason: unknown) => void } | null = null
  readonly #queue: (() => void)[] = []

  request(
    _: string,
    { ifAvailable, steal, signal }: LockOptions,
    granted: (lock: unknown) => Promise<void> | undefined,
  ): Promise<void> {
    return new Promise((resolve, reject) => {
      const take = () => {
        if (signal?.aborted) return this.#next()
        const own = { lost: reject }
        this.#held = own
        void Promise.resolve(granted({})).then(() => {
          if (this.#held === own) this.#next()
          resolve()
        })
      }
      signal?.addEventListener('abort', () => reject(signal.reason))
      if (steal) {
        this.#held?.lost(new DOMException('It was taken.', 'AbortError'))
        return take()
      }
      if (!this.#held) return take()
      if (ifAvailable) {
        granted(null)
        return resolve()
      }
      this.#queue.push(take)
    })
  }

  #next(): void {
    this.#held = null
    this.#queue.shift()?.()
  }
}

/** Windows of one browser hear each other; one that hangs does not. */
class FakeChannel {
  static all: FakeChannel[] = []
  onmessage: ((event: { data: unknown }) => void) | null = null
  hangs = false
  constructor(readonly name: string) {
    FakeChannel.all.push(this)
  }
  postMessage(data: unknown): void {
    for (const other of FakeChannel.all) {
      if (other === this || other.name !== this.name || other.hangs) continue
      queueMicrotask(() => other.onmessage?.({ data }))
    }
  }
  close(): void {
    FakeChannel.all = FakeChannel.all.filter((c) => c !== this)
  }
}

const windows: SessionLock[] = []
const open = (session = 's') => {
  const lock = new SessionLock(session)
  windows.push(lock)
  return lock
}
const settle = (ms = 0) => vi.advanceTimersByTimeAsync(ms)

beforeEach(() => {
  vi.useFakeTimers()
  FakeChannel.all = []
  vi.stubGlobal('BroadcastChannel', FakeChannel)
  vi.stubGlobal('navigator', { locks: new FakeLocks() })
})
afterEach(() => {
  for (const lock of windows.splice(0)) lock.close()
  vi.unstubAllGlobals()
  vi.useRealTimers()
})

describe('a session open in two windows', () => {
  it('is worked on in the first; the other waits, and goes on when that is closed', async () => {
    const first = open()
    await settle()
    const second = open()
    await settle()
    expect([first.holder.value, second.holder.value]).toEqual(['here', 'elsewhere'])
    first.close()
    await settle()
    expect(second.holder.value).toBe('here')
  })

  it('is handed over when the other asks, after what is unsaved was stored', async () => {
    const first = open()
    await settle()
    const second = open()
    await settle()
    const order: string[] = []
    first.onTakenOver = async () => {
      order.push(`stored while ${second.holder.value}`)
    }
    second.takeOver()
    await settle()
    expect(order).toEqual(['stored while asking'])
    expect([first.holder.value, second.holder.value]).toEqual(['elsewhere', 'here'])
    // The first waits in turn, and has it again when the second is closed.
    await settle(600)
    second.close()
    await settle()
    expect(first.holder.value).toBe('here')
  })

  it('stays where taking over would end something, until it is taken anyway', async () => {
    const first = open()
    await settle()
    const second = open()
    await settle()
    first.wouldEnd = () => 'Files are still coming in there.'
    second.takeOver()
    await settle()
    expect([first.holder.value, second.holder.value]).toEqual(['here', 'elsewhere'])
    expect(second.objection.value).toBe('Files are still coming in there.')
    await settle(4000)
    expect(first.holder.value).toBe('here')
    second.takeOver(true)
    await settle()
    expect([first.holder.value, second.holder.value]).toEqual(['elsewhere', 'here'])
    expect(second.objection.value).toBeNull()
  })

  it('is taken by force from a window that hangs, which is told when it wakes', async () => {
    const first = open()
    await settle()
    const second = open()
    await settle()
    FakeChannel.all[0].hangs = true
    second.takeOver()
    await settle(2900)
    expect([first.holder.value, second.holder.value]).toEqual(['here', 'asking'])
    await settle(200)
    expect([first.holder.value, second.holder.value]).toEqual(['elsewhere', 'here'])
  })

  it('is not asked for by the window that has it', async () => {
    const first = open()
    await settle()
    first.takeOver()
    expect(first.holder.value).toBe('here')
  })

  it('goes to the one that asks, not to one that has waited longer', async () => {
    const first = open()
    await settle()
    const [waits, asks] = [open(), open()]
    await settle()
    asks.takeOver()
    await settle(1000)
    expect([first, waits, asks].map((w) => w.holder.value)).toEqual([
      'elsewhere',
      'elsewhere',
      'here',
    ])
  })
})

describe('sessions', () => {
  it('do not stand in each other’s way', async () => {
    vi.stubGlobal('navigator', {
      locks: (() => {
        const byName = new Map<string, FakeLocks>()
        return {
          request: (name: string, ...rest: [LockOptions, () => undefined]) => {
            const own = byName.get(name) ?? new FakeLocks()
            byName.set(name, own)
            return own.request(name, ...rest)
          },
        }
      })(),
    })
    const [one, other] = [open('a'), open('b')]
    await settle()
    expect([one.holder.value, other.holder.value]).toEqual(['here', 'here'])
  })

  it('are open at once where a browser has no locks', async () => {
    vi.stubGlobal('navigator', {})
    const lock = open()
    await settle()
    expect(lock.holder.value).toBe('here')
  })
})
