import { makeWindow, realFft } from '@sober-prism/core/spectrum'

const FFT_SIZE = 8192
const HALF_TAPS = 1023

/**
 * Turns all frequencies by a constant phase: cos φ · x + sin φ · H{x}, with the Hilbert transform as a
 * windowed FIR, convolved by overlap-save; no delay is left over.
 */
export function turnPhase(signal: Float32Array, degrees: number): Float32Array {
  const angle = (degrees * Math.PI) / 180
  const cos = Math.cos(angle)
  const sin = Math.sin(angle)
  const fft = realFft(FFT_SIZE)
  const filter = new Float32Array(FFT_SIZE + 2)
  fft.forward(hilbertTaps(), filter)
  const out = new Float32Array(signal.length)
  const block = new Float32Array(FFT_SIZE)
  const spectrum = new Float32Array(FFT_SIZE + 2)
  const step = FFT_SIZE - 2 * HALF_TAPS
  for (let start = 0; start < signal.length; start += step) {
    for (let i = 0; i < FFT_SIZE; i++) block[i] = signal[start + i - HALF_TAPS] ?? 0
    fft.forward(block, spectrum)
    for (let k = 0; k < spectrum.length; k += 2) {
      const re = spectrum[k] * filter[k] - spectrum[k + 1] * filter[k + 1]
      spectrum[k + 1] = spectrum[k] * filter[k + 1] + spectrum[k + 1] * filter[k]
      spectrum[k] = re
    }
    fft.inverse(spectrum, block)
    const end = Math.min(step, signal.length - start)
    for (let i = 0; i < end; i++) {
      out[start + i] = cos * signal[start + i] + sin * block[i + 2 * HALF_TAPS]
    }
  }
  return out
}

/** Impulse response 2/(πn) at odd n, centred on `HALF_TAPS`. */
function hilbertTaps(): Float32Array {
  const window = makeWindow('blackman-harris', 2 * HALF_TAPS + 1, 'symmetric')
  const taps = new Float32Array(FFT_SIZE)
  for (let n = -HALF_TAPS; n <= HALF_TAPS; n += 2) {
    taps[HALF_TAPS + n] = (2 / (Math.PI * n)) * window[HALF_TAPS + n]
  }
  return taps
}
