import { afterEach, describe, expect, it } from 'vitest'
import { gaussianNoise } from '../testing/signals'
import type { WasmHost } from '../wasm'
import { addScaled, installAddKernel, removeAddKernel } from './add-stretches'

describe('adding a signal to another', () => {
  afterEach(() => installAddKernel(WebAssembly as unknown as WasmHost))

  it.each([0, 1, 6, 4096, 4097, 13_001])(
    'is done alike in SIMD and in plain code over %i frames',
    (length) => {
      const signal = gaussianNoise(length, 1, 0.2)
      const bed = gaussianNoise(length, 2, 0.2)
      const room = new Float32Array(new SharedArrayBuffer(4 * (length + 8)))
      room.fill(0.5)
      const fast = room.subarray(4, length + 4)
      fast.set(bed)
      addScaled(signal, -0.7, fast)
      removeAddKernel()
      const plain = bed.slice()
      addScaled(signal, -0.7, plain)
      const off = plain.reduce((most, v, i) => Math.max(most, Math.abs(v - fast[i])), 0)
      expect(off).toBeLessThan(1e-7)
      for (let i = 0; i < length; i += 97) expect(plain[i]).toBeCloseTo(bed[i] - 0.7 * signal[i], 6)
      // Nothing beside it is touched.
      expect([...room.subarray(0, 4), ...room.subarray(length + 4)]).toEqual(Array(8).fill(0.5))
    },
  )
})
