import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { ALIVE } from './life'
import { WatchedWorker } from './watched-worker'

class FakeWorker {
  readonly told: unknown[] = []
  onmessage: ((event: { data: unknown }) => void) | null = null
  ended = false
  postMessage(message: unknown) {
    this.told.push(message)
  }
  terminate() {
    this.ended = true
  }
  say(data: unknown) {
    this.onmessage?.({ data })
  }
}
let made: FakeWorker[]
/** Ends the worker that holds the lock which the page waits for. */
let end: (() => void)[]

beforeEach(() => {
  vi.useFakeTimers()
  made = []
  end = []
  vi.stubGlobal('navigator', {
    locks: {
      request: (_: string, { signal }: { signal: AbortSignal }, granted: () => void) =>
        new Promise<void>((resolve, reject) => {
          end.push(() => {
            granted()
            resolve()
          })
          signal.addEventListener('abort', () => reject(signal.reason))
        }),
    },
  })
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

function watched(heard: unknown[] = []) {
  const worker: WatchedWorker<string> = new WatchedWorker<string>(
    () => {
      const fake = new FakeWorker()
      made.push(fake)
      return fake as unknown as Worker
    },
    () => worker.send('everything'),
    (message) => heard.push(message),
  )
  return worker
}

describe('a worker that is always there', () => {
  it('is followed by another where it ends, which is told everything again', () => {
    const heard: unknown[] = []
    const worker = watched(heard)
    worker.send('lost: it has not begun')
    worker.start()
    worker.start()
    expect(made).toHaveLength(1)
    made[0].say(ALIVE)
    worker.send('more')
    made[0].say('found')
    end[0]()
    expect(made).toHaveLength(2)
    expect(made[0].ended).toBe(true)
    worker.send('again')
    expect(made.map((w) => w.told.slice(1))).toEqual([
      ['everything', 'more'],
      ['everything', 'again'],
    ])
    expect(heard).toEqual(['found'])
  })

  it('is not begun for ever where none comes to life', () => {
    watched().start()
    vi.advanceTimersByTime(10 * 60_000)
    expect(made.length).toBeLessThan(5)
  })

  it('is gone when it is closed', () => {
    const worker = watched()
    worker.start()
    made[0].say(ALIVE)
    worker.close()
    expect(made[0].ended).toBe(true)
    expect(made).toHaveLength(1)
  })
})
