import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { ALIVE, Life } from './life'

/** The browser's locks, as far as they are used here: each is granted when the one before it was let go. */
class Locks {
  readonly #tails = new Map<string, Promise<unknown>>()

  request(name: string, ...rest: unknown[]): Promise<unknown> {
    const work = rest.at(-1) as () => unknown
    const turn = (this.#tails.get(name) ?? Promise.resolve()).then(work)
    this.#tails.set(name, turn)
    return turn
  }
}

let locks: Locks
let told: string[]
beforeEach(() => {
  vi.useFakeTimers()
  locks = new Locks()
  told = []
  vi.stubGlobal('navigator', { locks })
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

/** A worker that takes its lock and lets it go when it ends. */
function worker() {
  let end = () => {}
  const ended = new Promise<void>((resolve) => {
    end = resolve
  })
  return {
    postMessage: (message: { lock: string }) => void locks.request(message.lock, () => ended),
    end,
  }
}
const watch = (hand: ReturnType<typeof worker>) =>
  new Life(hand as unknown as Worker, (error) => told.push(error.message))

describe('a worker that is watched', () => {
  it('is told of once when it ends, however long it may be silent', async () => {
    const hand = worker()
    const life = watch(hand)
    expect(life.hear(ALIVE)).toBe(true)
    life.work()
    await vi.advanceTimersByTimeAsync(100_000)
    expect(told).toEqual([])
    hand.end()
    await vi.advanceTimersByTimeAsync(300_000)
    expect(told).toEqual([expect.stringMatching(/ended/)])
  })

  it('is told of when it never showed its life, although it showed progress', async () => {
    const life = watch(worker())
    life.work()
    life.rest()
    life.work()
    await vi.advanceTimersByTimeAsync(29_000)
    expect(told).toEqual([])
    await vi.advanceTimersByTimeAsync(2000)
    expect(told).toEqual([expect.stringMatching(/stopped responding/)])
  })

  it('is told of when it is silent for two minutes at work, and not while it rests', async () => {
    const life = watch(worker())
    life.hear(ALIVE)
    life.rest()
    await vi.advanceTimersByTimeAsync(500_000)
    expect(told).toEqual([])
    life.work()
    await vi.advanceTimersByTimeAsync(121_000)
    expect(told).toEqual([expect.stringMatching(/stopped responding/)])
  })

  it('is not told of once it was let go', async () => {
    const hand = worker()
    const life = watch(hand)
    life.hear(ALIVE)
    life.work()
    life.close()
    hand.end()
    await vi.advanceTimersByTimeAsync(500_000)
    expect(told).toEqual([])
  })
})
