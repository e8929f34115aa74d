import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { rms, sine, whiteNoise } from '../testing/signals'
import { decimate, type installHalveKernel } from './decimate'
import { HalveKernel } from './halve-kernel'

/** The half-band filter in plain words: every other sample of a sum over 31 taps. */
function plainly(input: Float32Array, tap: (distance: number) => number): number[] {
  return Array.from({ length: Math.ceil(input.length / 2) }, (_, n) => {
    let sum = 0
    for (let d = -15; d <= 15; d++) sum += tap(Math.abs(d)) * (input[2 * n + d] ?? 0)
    return sum
  })
}

/** Taps as an impulse shows them: at even distances from it, then at odd ones. */
function shownTap(): (distance: number) => number {
  const even = new Float32Array(400)
  even[200] = 1
  const odd = new Float32Array(400)
  odd[201] = 1
  const [e, o] = [decimate(even, 1), decimate(odd, 1)]
  return (d) => (d % 2 === 0 ? e[100 + d / 2] : o[100 + (d + 1) / 2])
}

describe('halving the sample rate', () => {
  it('is one filter, whatever the length, in the kernel as at the edges', () => {
    const tap = shownTap()
    expect([tap(0), tap(2), tap(16)]).toEqual([0.5, 0, 0])
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 3000 }), (length) => {
        const input = whiteNoise(length, length, 0.5)
        const [made, wanted] = [decimate(input, 1), plainly(input, tap)]
        expect(made.length).toBe(wanted.length)
        for (let i = 0; i < made.length; i++)
          expect(Math.abs(made[i] - wanted[i])).toBeLessThan(1e-6)
      }),
      { numRuns: 30 },
    )
  })

  it('goes on from one chunk of the kernel to the next', () => {
    const input = sine(500, 2, 48000, 0.5)
    const made = decimate(input, 1)
    const wanted = sine(500, 2, 24000, 0.5)
    for (let i = 100; i < made.length - 100; i++) {
      expect(Math.abs(made[i] - wanted[i])).toBeLessThan(1e-4)
    }
  })

  it('takes away what would fold over', () => {
    const made = decimate(sine(18000, 0.5, 48000, 1), 1)
    expect(20 * Math.log10(rms(made, 100, made.length - 100))).toBeLessThan(-80)
  })

  it('needs no relaxed SIMD', () => {
    const plain = {
      validate: () => false,
      Module: WebAssembly.Module,
      Instance: WebAssembly.Instance,
    } as unknown as Parameters<typeof installHalveKernel>[0]
    const taps = Float64Array.from({ length: 8 }, (_, i) => 1 / (i + 3))
    const input = whiteNoise(400, 3)
    const out = new Float32Array(200)
    new HalveKernel(plain, taps).run(input, out, 8, 192)
    const wanted = plainly(input, (d) => (d === 0 ? 0.5 : d % 2 ? taps[(d - 1) / 2] : 0))
    for (let i = 8; i < 192; i++) expect(Math.abs(out[i] - wanted[i])).toBeLessThan(1e-5)
  })
})
