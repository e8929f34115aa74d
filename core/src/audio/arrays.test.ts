import fc from 'fast-check'
import { afterEach, describe, expect, it } from 'vitest'
import { gaussianNoise } from '../testing/signals'
import type { WasmHost } from '../wasm'
import {
  fromInt16,
  halveSoftly,
  installArrayKernel,
  removeArrayKernel,
  splitStereo,
} from './arrays'

/** What is made with the kernel, and in plain code. */
function bothWays<T>(make: () => T): [T, T] {
  const byKernel = make()
  removeArrayKernel()
  const plain = make()
  installArrayKernel(WebAssembly as unknown as WasmHost)
  return [byKernel, plain]
}

const LENGTHS = [0, 1, 3, 4, 5, 127, 4096, 4097, 8192, 8193, 20_001]

describe('loops over long arrays', () => {
  afterEach(() => installArrayKernel(WebAssembly as unknown as WasmHost))

  it.each(LENGTHS)('parts %i frames into middle and sides as plain code does', (length) => {
    const [left, right] = [gaussianNoise(length, 1, 0.1), gaussianNoise(length, 2, 0.1)]
    const [fast, plain] = bothWays(() => {
      const out = [new Float32Array(length), new Float32Array(length)]
      splitStereo(left, right, out[0], out[1])
      return out
    })
    expect(fast).toEqual(plain)
    const off = left.reduce(
      (most, l, i) => Math.max(most, Math.abs(plain[0][i] + plain[1][i] - l)),
      0,
    )
    expect(off).toBeLessThan(1e-7)
  })

  it('takes 16-bit samples at any place, exactly', () => {
    const samples = Int16Array.from({ length: 20_000 }, (_, i) => (i * 7919) % 65_536)
    const places = fc.tuple(fc.nat(9000), fc.nat(11_000))
    fc.assert(
      fc.property(places, ([from, length]) => {
        const [fast, plain] = bothWays(() => {
          const out = new Float32Array(length)
          fromInt16(samples, from, out)
          return out
        })
        expect(fast).toEqual(plain)
        for (let i = 0; i < length; i += 997) expect(plain[i]).toBe(samples[from + i] / 32_768)
      }),
      { numRuns: 30 },
    )
  })

  it('halves the rate from any place as plain code does, to the rounding of 32-bit floats', () => {
    const signal = gaussianNoise(20_003, 3, 0.1)
    fc.assert(
      fc.property(fc.nat(2000), fc.nat(9000), (start, frames) => {
        const [fast, plain] = bothWays(() => {
          const out = new Float32Array(9000)
          halveSoftly(signal, start, out, frames)
          return out
        })
        const off = fast.reduce((most, v, i) => Math.max(most, Math.abs(v - plain[i])), 0)
        expect(off).toBeLessThan(1e-7)
      }),
      { numRuns: 20 },
    )
  })
})
