import {
  type FirKernel,
  type FirWindow,
  LONGEST_FIR,
  linearPhaseFir,
  minimumPhaseFir,
  SHORTEST_FIR,
} from './fir'

/** Points of a curve drawn by hand, and how they are joined. */
export interface DrawnCurve {
  /** In order of frequency; gains from +24 down to -120 dB, which counts as silence. */
  readonly points: readonly { readonly hz: number; readonly db: number }[]
  readonly joining: 'straight' | 'smooth'
  /** Whether lines are straight over the logarithm of frequency or over frequency itself. */
  readonly axis: 'log' | 'linear'
}

export const DRAWN_LIMITS_DB = [-120, 24] as const

/** How a drawn curve is to become a filter. */
export interface DrawnDesign {
  /** Length, 64 to 65,536. */
  readonly taps: number
  readonly window: FirWindow
  readonly phase: 'minimum' | 'linear'
}

/**
 * The curve as a function of frequency, in dB. Beyond the first and last point it stays level; smooth
 * joining is a monotone cubic, which never rises above or falls below the points (Fritsch and Carlson 1980).
 * @throws RangeError when there is no point, or points are not in order of frequency.
 */
export function drawnDb({ points, joining, axis }: DrawnCurve): (hz: number) => number {
  if (points.length === 0) throw new RangeError('A drawn curve needs at least one point.')
  if (points.some((p, i) => i > 0 && p.hz <= points[i - 1].hz)) {
    throw new RangeError('The points of a drawn curve must be in order of frequency.')
  }
  const place = axis === 'log' ? (hz: number) => Math.log2(Math.max(1e-3, hz)) : (hz: number) => hz
  const x = points.map((p) => place(p.hz))
  const y = points.map((p) => p.db)
  const slopes = joining === 'smooth' ? monotoneSlopes(x, y) : null
  const last = points.length - 1
  return (hz) => {
    const at = place(hz)
    if (at <= x[0]) return y[0]
    if (at >= x[last]) return y[last]
    let low = 0
    let high = last
    while (high - low > 1) {
      const middle = (low + high) >> 1
      if (x[middle] <= at) low = middle
      else high = middle
    }
    const width = x[high] - x[low]
    const t = (at - x[low]) / width
    if (!slopes) return y[low] + t * (y[high] - y[low])
    const u = 1 - t
    return (
      y[low] * u * u * (1 + 2 * t) +
      slopes[low] * width * t * u * u +
      y[high] * t * t * (3 - 2 * t) -
      slopes[high] * width * t * t * u
    )
  }
}

function monotoneSlopes(x: readonly number[], y: readonly number[]): number[] {
  const rises = x.slice(1).map((v, i) => (y[i + 1] - y[i]) / (v - x[i]))
  return x.map((_, i) => {
    const before = rises[i - 1]
    const after = rises[i]
    if (before === undefined || after === undefined || before * after <= 0) return 0
    // Harmonic mean, weighted by the widths.
    const w1 = 2 * (x[i + 1] - x[i]) + (x[i] - x[i - 1])
    const w2 = x[i + 1] - x[i] + 2 * (x[i] - x[i - 1])
    return (w1 + w2) / (w1 / before + w2 / after)
  })
}

/**
 * The filter of a drawn curve. What it really does is read with `firMagnitudeDb`: where the length cannot
 * hold what was drawn, that is what is to be shown.
 * @throws RangeError when the length is out of range.
 */
export function drawnFir(curve: DrawnCurve, design: DrawnDesign, rateHz: number): FirKernel {
  const { taps, window, phase } = design
  if (!(taps >= SHORTEST_FIR && taps <= LONGEST_FIR)) {
    throw new RangeError(`A filter length is ${SHORTEST_FIR} to ${LONGEST_FIR}.`)
  }
  const db = drawnDb(curve)
  const [silence] = DRAWN_LIMITS_DB
  const make = phase === 'linear' ? linearPhaseFir : minimumPhaseFir
  return make((hz) => (db(hz) <= silence ? Number.NEGATIVE_INFINITY : db(hz)), taps, window, rateHz)
}
