import { describe, expect, it } from 'vitest'
import { lacking } from './needs'

const whole = {
  SharedArrayBuffer,
  AudioWorkletNode: class {} as unknown as typeof AudioWorkletNode,
  WebAssembly,
  indexedDB: {} as IDBFactory,
  crossOriginIsolated: true,
}

describe('what a browser lacks', () => {
  it('is nothing where all is there', () => {
    expect(lacking(whole)).toBeNull()
  })

  it.each([
    [{ SharedArrayBuffer: undefined }, /shared memory.*npm start/],
    [{ crossOriginIsolated: false }, /shared memory.*Cross-Origin-Opener-Policy/],
    [{ AudioWorkletNode: undefined }, /audio worklets/],
    [{ indexedDB: undefined }, /Allow this site to store data/],
  ])('is told with what to do: %o', (without, words) => {
    expect(lacking({ ...whole, ...without })).toMatch(words)
  })

  it('is told in one sentence where it is several things', () => {
    const text = lacking({ ...whole, SharedArrayBuffer: undefined, indexedDB: undefined })
    expect(text).toMatch(/shared memory.*; and storage for sessions/)
  })
})
