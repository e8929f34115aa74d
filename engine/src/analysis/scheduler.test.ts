import { describe, expect, it } from 'vitest'
import { type NodeKind, Scheduler } from './scheduler'

const job = { signal: new AbortController().signal, onProgress: () => {} }
/** Counts how often each kind is run. */
function counted() {
  const runs: string[] = []
  const number: NodeKind<{ value: number }, readonly [], number> = {
    name: 'number',
    version: 1,
    label: 'A number',
    keep: 'stored',
    run: async (_, { value }) => {
      runs.push(`number ${value}`)
      return value
    },
  }
  const sum: NodeKind<{ unit: string }, readonly number[], string> = {
    name: 'sum',
    version: 1,
    label: 'A sum',
    keep: 'stored',
    run: async (inputs, { unit }) => {
      runs.push('sum')
      return `${inputs.reduce((a, b) => a + b, 0)} ${unit}`
    },
  }
  return { runs, number, sum }
}

describe('the scheduler', () => {
  it('computes what depends on a change, and nothing else', async () => {
    const { runs, number, sum } = counted()
    const scheduler = new Scheduler(null)
    const total = (a: number, b: number) =>
      scheduler.get(
        scheduler.node(sum, { unit: 'dB' }, [
          scheduler.node(number, { value: a }, []),
          scheduler.node(number, { value: b }, []),
        ]),
        job,
      )
    expect(await total(1, 2)).toBe('3 dB')
    expect(await total(1, 5)).toBe('6 dB')
    expect(await total(1, 2)).toBe('3 dB')
    expect(runs).toEqual(['number 1', 'number 2', 'sum', 'number 5', 'sum'])
  })

  it('keeps results by all that decides them: settings, inputs, and the version of the code', async () => {
    const { runs, number } = counted()
    const kept = new Map<string, unknown>()
    const store = {
      load: async (key: string) => kept.get(key),
      keep: async (key: string, value: unknown) => void kept.set(key, value),
      touch: async () => {},
    }
    const get = (kind: typeof number) => {
      const scheduler = new Scheduler(store)
      return scheduler.get(scheduler.node(kind, { value: 7 }, []), job)
    }
    await get(number)
    await get(number)
    expect(runs).toHaveLength(1)
    await get({ ...number, version: 2 })
    expect(runs).toHaveLength(2)
  })

  it('takes up again what an older request gave up on', async () => {
    const scheduler = new Scheduler(null)
    const first = new AbortController()
    const slow: NodeKind<null, readonly [], string> = {
      name: 'slow',
      version: 1,
      label: 'Slow',
      keep: 'at-hand',
      run: (_, __, { signal }) =>
        new Promise((resolve, reject) => {
          if (signal !== first.signal) return resolve('done by the second')
          signal.addEventListener('abort', () => reject(signal.reason))
        }),
    }
    const node = scheduler.node(slow, null, [])
    const given = scheduler.get(node, { ...job, signal: first.signal })
    const wanted = scheduler.get(node, job)
    first.abort(new DOMException('stale', 'AbortError'))
    await expect(given).rejects.toThrow('stale')
    expect(await wanted).toBe('done by the second')
  })
})
