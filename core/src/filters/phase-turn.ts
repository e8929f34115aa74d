import { kaiserWindow } from '../spectrum'
import { partitionFor } from './convolver'

/** Frames of the Hilbert filter on each side, at 48 kHz: holds the turn down to 30 Hz. */
const HALF_AT_48K = 4095
const ATTENUATION_DB = 60

/** Frames of the turn's kernel on each side of its centre. */
export function turnFrames(rateHz: number): number {
  return Math.round((HALF_AT_48K * rateHz) / 48000) | 1
}

/** Frames by which a sound that is convolved with a turn's kernel is late. */
export function turnLatency(taps: number): number {
  return (taps - 1) / 2 + partitionFor(taps)
}

/**
 * A constant turn of phase at all frequencies: cos φ · x + sin φ · H{x}, with H the Hilbert transform, as a
 * kernel of 2·half + 1 taps, centred. Within 2 degrees from 30 Hz to 20 kHz at {@link turnFrames}. `degrees`
 * above zero is a phase that comes later, as of a signal that lags.
 */
export function turnKernel(half: number, degrees: number): Float32Array {
  const angle = (degrees * Math.PI) / 180
  const window = kaiserWindow(2 * half + 1, ATTENUATION_DB)
  const taps = new Float32Array(2 * half + 1)
  for (let n = 1; n <= half; n += 2) {
    const value = (2 / (Math.PI * n)) * window[half + n] * Math.sin(angle)
    taps[half + n] = value
    taps[half - n] = -value
  }
  taps[half] = Math.cos(angle)
  return taps
}
