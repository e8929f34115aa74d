import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { gaussianNoise } from '../testing/signals'
import { doubleFft, partitionFft, plainPartitions, referenceFft } from './index'

describe('transforms for convolution', () => {
  it.each([256, 512, 1024])('the fast one of %d points agrees with the plain one', (size) => {
    const a = gaussianNoise(size, 1, 0.5)
    const b = gaussianNoise(size, 2, 0.5)
    const results = [partitionFft(size), plainPartitions(referenceFft(size))].map((fft) => {
      const [x, y, sum] = [fft.create(), fft.create(), fft.create()]
      fft.forward(a, x)
      fft.forward(b, y)
      fft.multiplyAdd(sum, x, y)
      fft.multiplyAdd(sum, y, y)
      const out = new Float32Array(size)
      fft.inverse(sum, out)
      return out
    })
    // The products of two cyclic convolutions, by their definition.
    const wanted = Float64Array.from({ length: size }, (_, n) => {
      let value = 0
      for (let k = 0; k < size; k++) value += (a[k] + b[k]) * b[(n - k + size) % size]
      return value
    })
    for (const out of results) {
      for (let i = 0; i < size; i++) expect(Math.abs(out[i] - wanted[i])).toBeLessThan(2e-4)
    }
  })

  it('keeps its spectra apart while its memory grows', () => {
    const size = 1024
    const fft = partitionFft(size)
    const signal = gaussianNoise(size, 3, 0.5)
    const first = fft.create()
    fft.forward(signal, first)
    // More than the module's first memory holds.
    const many = Array.from({ length: 6000 }, () => fft.create())
    const unit = fft.create()
    const click = new Float32Array(size)
    click[0] = 1
    fft.forward(click, unit)
    const sum = fft.create()
    fft.multiplyAdd(sum, first, unit)
    const out = new Float32Array(size)
    fft.inverse(sum, out)
    for (let i = 0; i < size; i++) expect(Math.abs(out[i] - signal[i])).toBeLessThan(1e-5)
    for (const spectrum of many) fft.release(spectrum)
  })

  it('gives a released spectrum out again, empty', () => {
    const fft = partitionFft(256)
    const spectrum = fft.create()
    fft.forward(gaussianNoise(256, 4, 1), spectrum)
    fft.release(spectrum)
    const again = fft.create()
    expect(again).toBe(spectrum)
    const out = new Float32Array(256).fill(1)
    fft.inverse(again, out)
    expect(out.every((v) => v === 0)).toBe(true)
  })

  it('in double precision, inverse undoes forward', () => {
    fc.assert(
      fc.property(fc.integer({ min: 3, max: 11 }), fc.integer(), (power, seed) => {
        const size = 2 ** power
        const signal = Float64Array.from(gaussianNoise(size, seed, 1))
        const back = doubleFft(size).inverse(doubleFft(size).forward(signal))
        for (let i = 0; i < size; i++) expect(Math.abs(back[i] - signal[i])).toBeLessThan(1e-12)
      }),
      { numRuns: 40 },
    )
  })
})
