import { realFft } from './fft'
import { makeWindow } from './windows'

/** Mean power of two sounds per bin, and their mean cross power: what is needed to know the power of any sum of them. */
export interface CrossSpectrum {
  readonly sampleRateHz: number
  /** Length of a window, in frames; the spectra have `size / 2 + 1` bins. */
  readonly size: number
  /** Scaled so that the bins of a steady sound add up to its mean square, averaged over channels. */
  readonly first: Float64Array
  readonly second: Float64Array
  /** Real and imaginary part of first × conjugate of second. */
  readonly re: Float64Array
  readonly im: Float64Array
}

const SIZE = 8192

/**
 * Welch's method (1967) on two sounds of the same stretch: Hann, 8192 frames, half overlap. Where one has a single
 * channel and the other two, it counts as the same on both.
 */
export function crossSpectrum(
  first: readonly Float32Array[],
  second: readonly Float32Array[],
  sampleRateHz: number,
): CrossSpectrum {
  const bins = SIZE / 2 + 1
  const [a2, b2, re, im] = [0, 1, 2, 3].map(() => new Float64Array(bins))
  const window = makeWindow('hann', SIZE)
  let square = 0
  for (const w of window) square += w * w
  const fft = realFft(SIZE)
  const time = new Float32Array(SIZE)
  const [a, b] = [new Float32Array(SIZE + 2), new Float32Array(SIZE + 2)]
  const transform = (signal: Float32Array, from: number, out: Float32Array) => {
    for (let i = 0; i < SIZE; i++) time[i] = (signal[from + i] ?? 0) * window[i]
    fft.forward(time, out)
  }
  const frames = Math.min(first[0].length, second[0].length)
  const channels = Math.max(first.length, second.length)
  let windows = 0
  for (let from = 0; from === 0 || from + SIZE <= frames; from += SIZE / 2) {
    for (let c = 0; c < channels; c++) {
      transform(first[c] ?? first[0], from, a)
      transform(second[c] ?? second[0], from, b)
      for (let k = 0; k < bins; k++) {
        const [ar, ai, br, bi] = [a[2 * k], a[2 * k + 1], b[2 * k], b[2 * k + 1]]
        a2[k] += ar * ar + ai * ai
        b2[k] += br * br + bi * bi
        re[k] += ar * br + ai * bi
        im[k] += ai * br - ar * bi
      }
      windows++
    }
  }
  for (const values of [a2, b2, re, im]) {
    for (let k = 0; k < bins; k++) {
      values[k] *= (k === 0 || k === bins - 1 ? 1 : 2) / (SIZE * square * windows)
    }
  }
  return { sampleRateHz, size: SIZE, first: a2, second: b2, re, im }
}
