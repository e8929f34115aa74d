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
  const power = new Float64Array(size / 2 + 1)
  return (signal, start = 0) => {
    fft.power(signal, start, window, scale, power)
    return power
  }
}

const windows = new Map<string, { window: Float32Array; scale: number }>()

/** A window, and the factor that takes its power out of a spectrum. */
function scaledWindow(name: WindowName, size: number): { window: Float32Array; scale: number } {
  const key = `${name} ${size}`
  let known = windows.get(key)
  if (!known) {
    const window = makeWindow(name, size)
    let square = 0
    for (const w of window) square += w * w
    known = { window: Float32Array.from(window), scale: 1 / (size * square) }
    windows.set(key, known)
  }
  return known
}
