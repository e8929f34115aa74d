import { describe, expect, it } from 'vitest'
import { ResultCache } from './result-cache'

describe('the result cache', () => {
  it('computes a key once, even for callers that come while it is computed', async () => {
    const cache = new ResultCache()
    let computed = 0
    const compute = async () => ++computed
    expect(await Promise.all([cache.get('k', compute), cache.get('k', compute)])).toEqual([1, 1])
    expect(await cache.get('k', compute)).toBe(1)
  })

  it('does not keep failures', async () => {
    const cache = new ResultCache()
    await expect(cache.get('k', () => Promise.reject(new Error('no')))).rejects.toThrow('no')
    expect(await cache.get('k', async () => 2)).toBe(2)
  })

  it('lets the longest unused go first', async () => {
    const cache = new ResultCache(2)
    let computed = 0
    const compute = async () => ++computed
    await cache.get('a', compute)
    await cache.get('b', compute)
    await cache.get('a', compute)
    await cache.get('c', compute)
    expect(await cache.get('a', compute)).toBe(1)
    expect(await cache.get('b', compute)).toBe(4)
  })

  it('holds no more than so many bytes of arrays', async () => {
    const cache = new ResultCache(10, 1000)
    const made: string[] = []
    const compute = (key: string) => async () => {
      made.push(key)
      return { values: new Float32Array(100) }
    }
    for (const key of ['a', 'b', 'c', 'c', 'b', 'a']) await cache.get(key, compute(key))
    expect(made).toEqual(['a', 'b', 'c', 'a'])
  })
})
