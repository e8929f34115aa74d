import {
  type FirKernel,
  firMagnitudeDb,
  linearPhaseFir,
  minimumPhaseFir,
  type PhaseMode,
} from '../filters'
import { doubleFft } from '../spectrum'

/** A mixed filter is no later than this, in seconds. */
const MIXED_DELAY_SECONDS = 0.005
/** Tapered ends: the curves are smooth and die away by themselves. */
const WINDOW = { kind: 'tapered', share: 0.5 } as const

/**
 * A correction as one filter. In mixed phase a short linear filter carries what it can hold of the curve, which is its
 * broad part and its highs; the rest, which is what stands narrow and low, follows in minimum phase.
 * @param db gain over frequency. @param taps length.
 */
export function matchFir(
  db: (hz: number) => number,
  taps: number,
  phase: PhaseMode,
  rateHz: number,
): FirKernel {
  if (phase === 'linear') return linearPhaseFir(db, taps, WINDOW, rateHz)
  if (phase === 'minimum') return minimumPhaseFir(db, taps, WINDOW, rateHz)
  const short = 2 * Math.round(MIXED_DELAY_SECONDS * rateHz) + 1
  const broad = linearPhaseFir(db, Math.min(short, taps / 4), WINDOW, rateHz)
  const size = 4 * taps
  const held = firMagnitudeDb(broad.taps, size)
  const rest = (hz: number) => {
    const at = Math.min(size / 2, (hz * size) / rateHz)
    const k = Math.floor(at)
    const next = held[Math.min(size / 2, k + 1)]
    return db(hz) - (held[k] + (at - k) * (next - held[k]))
  }
  const length = taps - broad.taps.length + 1
  const narrow = minimumPhaseFir(rest, length, WINDOW, rateHz)
  return { taps: convolved(broad.taps, narrow.taps), latency: broad.latency }
}

function convolved(a: Float32Array, b: Float32Array): Float32Array {
  const length = a.length + b.length - 1
  const size = 2 ** Math.ceil(Math.log2(length))
  const fft = doubleFft(size)
  const [x, y] = [a, b].map((taps) => {
    const padded = new Float64Array(size)
    padded.set(taps)
    return Float64Array.from(fft.forward(padded))
  })
  const product = new Float64Array(size + 2)
  for (let k = 0; k < product.length; k += 2) {
    product[k] = x[k] * y[k] - x[k + 1] * y[k + 1]
    product[k + 1] = x[k] * y[k + 1] + x[k + 1] * y[k]
  }
  return Float32Array.from(fft.inverse(product).subarray(0, length))
}
