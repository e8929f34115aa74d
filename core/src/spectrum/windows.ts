import { besselI0 } from '../audio'

/** Windows for spectra and filter design. Figures of merit: Harris 1978. */
export type WindowName = 'rectangle' | 'hann' | 'blackman-harris' | 'flat-top'

// Cosine-sum coefficients: Harris 1978, table 1; flat top: ISO 18431-1.
const COSINE_TERMS: Record<WindowName, readonly number[]> = {
  rectangle: [1],
  hann: [0.5, 0.5],
  'blackman-harris': [0.35875, 0.48829, 0.14128, 0.01168],
  'flat-top': [1, 1.93, 1.29, 0.388, 0.028],
}

/**
 * A window of `size` samples.
 * @param shape `periodic` for spectra (the next sample would be the first again), `symmetric` for filters.
 */
export function makeWindow(
  name: WindowName,
  size: number,
  shape: 'periodic' | 'symmetric' = 'periodic',
): Float64Array {
  const terms = COSINE_TERMS[name]
  const period = shape === 'periodic' ? size : size - 1
  return Float64Array.from({ length: size }, (_, i) => {
    let value = 0
    terms.forEach((a, k) => {
      value += (k % 2 === 0 ? a : -a) * Math.cos((2 * Math.PI * k * i) / period)
    })
    return value
  })
}

/** Kaiser window, symmetric, with the shape that gives `attenuationDb` of stop band (Kaiser 1974). */
export function kaiserWindow(size: number, attenuationDb: number): Float64Array {
  const a = attenuationDb
  const beta =
    a > 50 ? 0.1102 * (a - 8.7) : a > 21 ? 0.5842 * (a - 21) ** 0.4 + 0.07886 * (a - 21) : 0
  const half = (size - 1) / 2
  return Float64Array.from(
    { length: size },
    (_, i) =>
      besselI0(beta * Math.sqrt(Math.max(0, 1 - ((i - half) / half) ** 2))) / besselI0(beta),
  )
}

/** Equivalent noise bandwidth of a window in bins: N·Σw² / (Σw)² (Harris 1978, eq. 15). */
export function noiseBandwidthBins(window: Float64Array): number {
  let sum = 0
  let square = 0
  for (const w of window) {
    sum += w
    square += w * w
  }
  return (window.length * square) / (sum * sum)
}
