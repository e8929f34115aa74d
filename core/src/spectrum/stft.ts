import { realFft } from './fft'
import { makeWindow, type WindowName } from './windows'

/** Settings of a short-time spectrum; sizes in frames. */
export interface StftSettings {
  readonly size: number
  readonly hop: number
  readonly window: WindowName
}

/**
 * Power spectra of successive windowed stretches. `visit` gets the power of bins 0 to size/2, scaled so
 * that the bins of a stationary signal add up to its mean square (one-sided, window power taken out).
 * The array is reused: copy what must stay.
 */
export function forEachSpectrum(
  signal: Float32Array,
  settings: StftSettings,
  visit: (power: Float64Array, startFrame: number) => void,
): void {
  const { size, hop } = settings
  const measure = powerSpectrum(settings)
  const stretch = new Float32Array(size)
  const last = Math.max(0, signal.length - size)
  for (let start = 0; start <= last; start += hop) {
    stretch.fill(0)
    stretch.set(signal.subarray(start, start + size))
    visit(measure(stretch), start)
  }
}

/** A function from `size` samples to the power of each bin, scaled as in {@link forEachSpectrum}. */
export function powerSpectrum(
  settings: Pick<StftSettings, 'size' | 'window'>,
): (stretch: Float32Array) => Float64Array {
  const { size } = settings
  const window = makeWindow(settings.window, size)
  const fft = realFft(size)
  const windowed = new Float32Array(size)
  const spectrum = new Float32Array(size + 2)
  const power = new Float64Array(size / 2 + 1)
  let square = 0
  for (const w of window) square += w * w
  const scale = 1 / (size * square)
  return (stretch) => {
    for (let i = 0; i < size; i++) windowed[i] = stretch[i] * window[i]
    fft.forward(windowed, spectrum)
    for (let bin = 0; bin <= size / 2; bin++) {
      const re = spectrum[2 * bin]
      const im = spectrum[2 * bin + 1]
      const sides = bin === 0 || bin === size / 2 ? 1 : 2
      power[bin] = (re * re + im * im) * scale * sides
    }
    return power
  }
}
