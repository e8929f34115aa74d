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
  const last = Math.max(0, signal.length - size)
  // A signal that is shorter than one stretch is filled up with silence.
  const padded = signal.length >= size ? signal : new Float32Array(size)
  if (padded !== signal) padded.set(signal)
  for (let start = 0; start <= last; start += hop) visit(measure(padded, start), start)
}

/**
 * A function from the `size` samples at `start` (0 by default) to the power of each bin, scaled as in
 * {@link forEachSpectrum}.
 */
export function powerSpectrum({
  size,
  window: name,
}: Pick<StftSettings, 'size' | 'window'>): (signal: Float32Array, start?: number) => Float64Array {
  const { window, scale } = scaledWindow(name, size)
  const fft = realFft(size)
  const windowed = new Float32Array(size)
  const spectrum = new Float32Array(size + 2)
  const power = new Float64Array(size / 2 + 1)
  return (signal, start = 0) => {
    applyWindow(signal, start, window, windowed)
    fft.forward(windowed, spectrum)
    powersOf(spectrum, scale, power)
    return power
  }
}

// Loops stand in functions of their own, which the engine compiles once for all callers.

function applyWindow(
  signal: Float32Array,
  start: number,
  window: Float32Array,
  out: Float32Array,
): void {
  for (let i = 0; i < out.length; i++) out[i] = signal[start + i] * window[i]
}

/** Bins between the ends stand for both signs of their frequency. */
function powersOf(spectrum: Float32Array, scale: number, power: Float64Array): void {
  const last = power.length - 1
  for (let bin = 0; bin <= last; bin++) {
    const re = spectrum[2 * bin]
    const im = spectrum[2 * bin + 1]
    power[bin] = (re * re + im * im) * scale
  }
  power[0] /= 2
  power[last] /= 2
}

const windows = new Map<string, { window: Float32Array; scale: number }>()

/** A window, and the factor that takes its power out of a one-sided spectrum. */
function scaledWindow(name: WindowName, size: number): { window: Float32Array; scale: number } {
  const key = `${name} ${size}`
  let known = windows.get(key)
  if (!known) {
    const window = makeWindow(name, size)
    let square = 0
    for (const w of window) square += w * w
    known = { window: Float32Array.from(window), scale: 2 / (size * square) }
    windows.set(key, known)
  }
  return known
}
