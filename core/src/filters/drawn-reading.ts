import {
  DRAWN_LIMITS_DB,
  type DrawnCurve,
  type DrawnDesign,
  drawnDb,
  drawnFir,
} from './drawn-curve'
import { type FirKernel, firMagnitudeDb, LONGEST_FIR, preEchoOf, SHORTEST_FIR } from './fir'

/** What becomes of a drawn curve. */
export interface DrawnReading {
  readonly kernel: FirKernel
  /** Where the filter is furthest from what was drawn, between 20 Hz and 20 kHz, both held at silence (-120 dB). */
  readonly worstDb: number
  readonly worstHz: number
  /** Strongest tap more than 5 ms before the main one, relative to it, in dB; null where there is none. */
  readonly preEchoDb: number | null
}

const [LOWEST_READ_HZ, HIGHEST_READ_HZ] = [20, 20_000]
/** The transform in which a filter is read is at least this many times as long. */
const READ_FACTOR = 8

/** Designs a curve's filter and reads it. @throws RangeError as {@link drawnFir}. */
export function readDrawn(curve: DrawnCurve, design: DrawnDesign, rateHz: number): DrawnReading {
  const kernel = drawnFir(curve, design, rateHz)
  return {
    kernel,
    ...worstDeviation(curve, kernel.taps, rateHz),
    preEchoDb: preEchoOf(kernel.taps, kernel.latency, rateHz),
  }
}

/** Segments between points that are read closely, the steepest first; each in so many places. */
const MOST_SEGMENTS = 256
const PLACES = 8
/** A segment is narrow where it spans no more bins of the transform than this. */
const NARROW_BINS = 16

/**
 * Where a filter is furthest from what was drawn: on the bins of a transform, at the curve's own points, between points
 * that stand close together, and around the worst of all these.
 */
function worstDeviation(curve: DrawnCurve, taps: Float32Array, rateHz: number) {
  const size = 2 ** Math.ceil(Math.log2(READ_FACTOR * taps.length))
  const read = firMagnitudeDb(taps, size)
  const wanted = drawnDb(curve)
  const binHz = rateHz / size
  const [silence] = DRAWN_LIMITS_DB
  const highestHz = Math.min(HIGHEST_READ_HZ, rateHz / 2)
  let [worstHz, worstDb]: [number, number] = [LOWEST_READ_HZ, 0]
  const look = (hz: number, db: number) => {
    const off = Math.abs(Math.max(silence, db) - Math.max(silence, wanted(hz)))
    if (off > worstDb) [worstHz, worstDb] = [hz, off]
  }
  const lookAt = (hz: number) => {
    if (hz >= LOWEST_READ_HZ && hz <= highestHz) look(hz, dbAt(taps, hz, rateHz))
  }
  // At the edge exactly: there a filter that is too short is furthest off.
  lookAt(LOWEST_READ_HZ)
  const last = Math.floor(highestHz / binHz)
  for (let k = Math.ceil(LOWEST_READ_HZ / binHz); k <= last; k++) look(k * binHz, read[k])
  for (const hz of closePlaces(curve, binHz)) lookAt(hz)
  const worst = worstHz
  for (let i = -PLACES; i <= PLACES; i++) lookAt(worst + (i * binHz) / PLACES)
  return { worstDb, worstHz }
}

/** The curve's own points, and places between those that stand so close that the bins of a transform may miss them. */
function closePlaces({ points }: DrawnCurve, binHz: number): number[] {
  const segments = points.slice(1).map((to, i) => {
    const from = points[i]
    return { from, to, slope: Math.abs(to.db - from.db) / (to.hz - from.hz) }
  })
  const narrow = segments
    .filter(({ from, to, slope }) => slope > 0 && to.hz - from.hz < NARROW_BINS * binHz)
    .sort((a, b) => b.slope - a.slope)
    .slice(0, MOST_SEGMENTS)
  return [
    ...points.map((p) => p.hz),
    ...narrow.flatMap(({ from, to }) =>
      Array.from(
        { length: PLACES - 1 },
        (_, i) => from.hz + ((i + 1) / PLACES) * (to.hz - from.hz),
      ),
    ),
  ]
}

/** Magnitude at one frequency, in dB; by a phasor that is turned from tap to tap. */
function dbAt(taps: Float32Array, hz: number, rateHz: number): number {
  const step = (2 * Math.PI * hz) / rateHz
  const [cos, sin] = [Math.cos(step), Math.sin(step)]
  let [c, s] = [1, 0]
  let [re, im] = [0, 0]
  for (let i = 0; i < taps.length; i++) {
    re += taps[i] * c
    im += taps[i] * s
    const next = c * cos - s * sin
    s = s * cos + c * sin
    c = next
  }
  return 10 * Math.log10(Math.max(1e-30, re * re + im * im))
}

/** The shortest length, doubling, with which a curve is held, or the longest there is. */
export function tapsWithin(
  curve: DrawnCurve,
  design: Omit<DrawnDesign, 'taps'>,
  rateHz: number,
  toleranceDb: number,
): number {
  let taps = SHORTEST_FIR
  while (taps < LONGEST_FIR) {
    // How the phase is taken changes nothing of the magnitude.
    const linear = { ...design, taps, phase: 'linear' } as const
    if (
      worstDeviation(curve, drawnFir(curve, linear, rateHz).taps, rateHz).worstDb <= toleranceDb
    ) {
      return taps
    }
    taps *= 2
  }
  return LONGEST_FIR
}
