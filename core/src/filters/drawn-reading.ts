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

function worstDeviation(curve: DrawnCurve, taps: Float32Array, rateHz: number) {
  const size = 2 ** Math.ceil(Math.log2(READ_FACTOR * taps.length))
  const read = firMagnitudeDb(taps, size)
  const wanted = drawnDb(curve)
  const binHz = rateHz / size
  const [silence] = DRAWN_LIMITS_DB
  const off = (hz: number, db: number) =>
    Math.abs(Math.max(silence, db) - Math.max(silence, wanted(hz)))
  // At the edge exactly: there a filter that is too short is furthest off.
  let worstHz: number = LOWEST_READ_HZ
  let worstDb = off(worstHz, dbAt(taps, worstHz, rateHz))
  const last = Math.floor(Math.min(HIGHEST_READ_HZ, rateHz / 2) / binHz)
  for (let k = Math.ceil(LOWEST_READ_HZ / binHz); k <= last; k++) {
    const here = off(k * binHz, read[k])
    if (here <= worstDb) continue
    worstDb = here
    worstHz = k * binHz
  }
  return { worstDb, worstHz }
}

/** Magnitude at one frequency, in dB. */
function dbAt(taps: Float32Array, hz: number, rateHz: number): number {
  const step = (2 * Math.PI * hz) / rateHz
  let [re, im] = [0, 0]
  for (let i = 0; i < taps.length; i++) {
    re += taps[i] * Math.cos(step * i)
    im += taps[i] * Math.sin(step * i)
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
