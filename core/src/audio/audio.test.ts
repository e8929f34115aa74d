import { describe, expect, it } from 'vitest'
import { gaussianNoise, rms, sine } from '../testing/signals'
import { Dither, makeClip, resample } from '.'

describe('resampling 44.1 to 48 kHz', () => {
  it.each([100, 1000, 10000, 18000, 20000])('keeps a %d Hz sine within 0.05 dB', (hz) => {
    const out = resample(makeClip(44100, [sine(hz, 0.5, 44100)]), 48000).channels[0]
    const level = 20 * Math.log10(rms(out, 2400, out.length - 2400) * Math.SQRT2)
    expect(Math.abs(level)).toBeLessThan(0.05)
  })

  it.each([1000, 15000, 19500])('adds nothing above -100 dB beside a %d Hz sine', (hz) => {
    const out = resample(makeClip(44100, [sine(hz, 0.5, 44100)]), 48000).channels[0]
    expect(residualDb(out.subarray(2400, out.length - 2400), hz, 48000)).toBeLessThan(-100)
  })

  it('removes what the lower rate cannot hold', () => {
    const out = resample(makeClip(96000, [sine(30000, 0.3, 96000)]), 44100).channels[0]
    expect(20 * Math.log10(rms(out, 2000, out.length - 2000))).toBeLessThan(-100)
  })

  it('works between rates with no small common ratio', () => {
    const out = resample(makeClip(44103, [sine(9000, 0.3, 44103)]), 47999).channels[0]
    expect(residualDb(out.subarray(2400, out.length - 2400), 9000, 47999)).toBeLessThan(-100)
  })

  it('keeps the duration', () => {
    expect(resample(makeClip(44100, [new Float32Array(44100)]), 48000).frames).toBe(48000)
  })
})

/** Level of what remains after the best-fitting sine of `hz` is taken out, relative to that sine. */
function residualDb(signal: Float32Array, hz: number, rateHz: number): number {
  let cc = 0
  let ss = 0
  let cs = 0
  let xc = 0
  let xs = 0
  signal.forEach((x, i) => {
    const c = Math.cos((2 * Math.PI * hz * i) / rateHz)
    const s = Math.sin((2 * Math.PI * hz * i) / rateHz)
    cc += c * c
    ss += s * s
    cs += c * s
    xc += x * c
    xs += x * s
  })
  const det = cc * ss - cs * cs
  const a = (xc * ss - xs * cs) / det
  const b = (xs * cc - xc * cs) / det
  const rest = signal.map(
    (x, i) =>
      x -
      a * Math.cos((2 * Math.PI * hz * i) / rateHz) -
      b * Math.sin((2 * Math.PI * hz * i) / rateHz),
  )
  return 20 * Math.log10(rms(rest) / (Math.hypot(a, b) / Math.SQRT2))
}

describe('triangular dither (Lipshitz, Wannamaker and Vanderkooy 1992)', () => {
  it('leaves an error with zero mean and variance of a quarter step squared, whatever the signal', () => {
    for (const level of [0, 0.25 / 32768, 0.5 / 32768, 0.813 / 32768]) {
      let mean = 0
      let square = 0
      const count = 200000
      const steps = new Int32Array(count)
      new Dither(11).quantise(new Float32Array(count).fill(level), count, 16, steps)
      for (const step of steps) {
        const error = step - level * 32768
        mean += error / count
        square += (error * error) / count
      }
      expect(Math.abs(mean)).toBeLessThan(0.01)
      // 1/12 of rounding plus 2/12 of dither.
      expect(square).toBeCloseTo(0.25, 2)
    }
  })

  it('never leaves the range of the word', () => {
    const steps = new Int32Array(5)
    new Dither(1).quantise(Float32Array.of(1, -1, 2, -2, 0.99999), 5, 16, steps)
    for (const step of steps) {
      expect(step).toBeGreaterThanOrEqual(-32768)
      expect(step).toBeLessThanOrEqual(32767)
    }
  })
})

it('the same seed gives the same noise', () => {
  expect(gaussianNoise(8, 5, 1)).toEqual(gaussianNoise(8, 5, 1))
})
