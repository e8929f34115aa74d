import { afterEach, describe, expect, it } from 'vitest'
import { gaussianNoise } from '../testing/signals'
import type { WasmHost } from '../wasm'
import { installEnergyKernel, KFilter, removeEnergyKernel } from './k-weighting'

const RATE = 44_100

/** Energies of a stereo sound, piece by piece. */
function energies(lengths: readonly number[]): number[] {
  const sound = [gaussianNoise(40_000, 1, 0.1), gaussianNoise(40_000, 2, 0.3)]
  const filter = new KFilter(RATE, 2)
  let at = 0
  return lengths.map((length) => {
    const sum = filter.energy(sound, at, at + length)
    at += length
    return sum
  })
}

describe('K-weighting in SIMD', () => {
  afterEach(() => installEnergyKernel(WebAssembly as unknown as WasmHost))

  it('runs on from piece to piece as plain code does, in double precision', () => {
    const lengths = [1, 0, 7, 4410, 8192, 8193, 4410]
    const fast = energies(lengths)
    removeEnergyKernel()
    const plain = energies(lengths)
    fast.forEach((sum, i) => {
      expect(Math.abs(sum - plain[i])).toBeLessThanOrEqual(1e-12 * plain[i])
    })
    expect(plain.filter((sum) => sum > 0)).toHaveLength(6)
  })

  it('gives a channel by itself what it gives that channel beside a silent one', () => {
    const sound = gaussianNoise(9000, 5, 0.1)
    const alone = new KFilter(RATE, 1).energy([sound], 0, 9000)
    const beside = new KFilter(RATE, 2).energy([sound, new Float32Array(9000)], 0, 9000)
    expect(beside / alone).toBeCloseTo(1, 12)
  })
})
