import { erbNumberToHz, hzToErbNumber } from '../spectrum'
import { earTransferDb } from './ear'
import { ERB_STEP, excitation, FILTER_COUNT, FILTER_HZ, FIRST_FILTER } from './excitation'
import { type FilterConstants, filterConstants, inQuiet, inQuietAbove } from './loudness-law'

const constants: readonly FilterConstants[] = Array.from(FILTER_HZ, filterConstants)

/** Excitation at the threshold of hearing of each filter, relative to 0 dB SPL. */
export const QUIET = Float64Array.from(constants, (f) => f.quiet)

/**
 * The compressive laws as tables over the logarithm of excitation. A cell is the leading bits of a 32-bit
 * float (32 cells an octave), and within a cell the law is taken as straight: off by less than 0.01 %.
 */
const CELL_BITS = 18
const LEAST = 2 ** -24
const GREATEST = 2 ** 44
const asFloat = new Float32Array(1)
const asBits = new Int32Array(asFloat.buffer)
const FIRST_CELL = bitsOf(LEAST) >> CELL_BITS
const CELLS = (bitsOf(GREATEST) >> CELL_BITS) - FIRST_CELL
const WITHIN = (1 << CELL_BITS) - 1

function bitsOf(value: number): number {
  asFloat[0] = value
  return asBits[0]
}

function tabulate(law: (e: number) => number): Float64Array {
  return Float64Array.from({ length: CELLS + 2 }, (_, cell) => {
    asBits[0] = (cell + FIRST_CELL) << CELL_BITS
    return law(asFloat[0])
  })
}

/** Filters with the same constants share their tables: all from 500 Hz up. */
function tablesOf(law: (e: number, f: FilterConstants) => number): Float64Array[] {
  const shared = new Map<number, Float64Array>()
  return constants.map((f) => {
    const table = shared.get(f.quiet) ?? tabulate((e) => law(e, f))
    shared.set(f.quiet, table)
    return table
  })
}

const quietTables = tablesOf(inQuiet)
const aboveTables = tablesOf(inQuietAbove)
/** x to the power of 0.3, for x up to 1. */
const powerTable = tabulate((x) => x ** 0.3)

function look(table: Float64Array, value: number): number {
  asFloat[0] = value
  const bits = asBits[0]
  const cell = (bits >> CELL_BITS) - FIRST_CELL
  if (cell < 0) return table[0]
  if (cell >= CELLS) return table[CELLS]
  const low = table[cell]
  return low + ((table[cell + 1] - low) * (bits & WITHIN)) / (WITHIN + 1)
}

/** Binaural sones per ERB for a unit of specific loudness: set by 1 kHz, 40 dB SPL = 1 sone (definition). */
const SCALE = calibrate()
/** The lowest filter stands for less: the exact form begins at ERB number 1.7 and it reaches from there to 1.875. */
const FIRST_WIDTH = 0.7
const scales = Float64Array.from({ length: FILTER_COUNT }, (_, i) =>
  i < FIRST_FILTER ? 0 : i === FIRST_FILTER ? FIRST_WIDTH * SCALE : SCALE,
)

function calibrate(): number {
  const pattern = excitation(toneIntensity(1000, 40), new Float64Array(FILTER_COUNT))
  let sum = 0
  for (let i = FIRST_FILTER; i < FILTER_COUNT; i++) sum += look(quietTables[i], pattern[i])
  return 1 / (sum * ERB_STEP)
}

/** Band intensities of one tone, for models and checks. `dbSpl` is its level in a frontal free field. */
export function toneIntensity(hz: number, dbSpl: number): Float64Array {
  const bands = new Float64Array(FILTER_COUNT)
  const first = hzToErbNumber(FILTER_HZ[0])
  const place = (hzToErbNumber(hz) - first) / ERB_STEP
  const low = Math.max(0, Math.min(FILTER_COUNT - 2, Math.floor(place)))
  const share = Math.max(0, Math.min(1, place - low))
  const power = 10 ** ((dbSpl + earTransferDb(hz)) / 10)
  bands[low] = power * (1 - share)
  bands[low + 1] = power * share
  return bands
}

/**
 * Specific loudness in quiet, in sone per ERB, both ears together.
 * @param pattern excitation of each filter, relative to 0 dB SPL.
 * @param from first filter to compute; @param to the one after the last.
 */
export function specificLoudness(
  pattern: ArrayLike<number>,
  out: Float64Array,
  from = 0,
  to = FILTER_COUNT,
): Float64Array {
  for (let i = from; i < to; i++) {
    out[i] = pattern[i] > LEAST ? scales[i] * look(quietTables[i], pattern[i]) : 0
  }
  return out
}

/**
 * Specific loudness that is left of a signal beside a noise, in sone per ERB, both ears together.
 * @param kFactors on K by how tonal the noise is, per filter; null for a noise that is one.
 */
export function specificPartialLoudness(
  signal: ArrayLike<number>,
  noise: ArrayLike<number>,
  kFactors: ArrayLike<number> | null,
  out: Float64Array,
  from = 0,
  to = FILTER_COUNT,
): Float64Array {
  for (let i = from; i < to; i++) {
    const factor = kFactors ? kFactors[i] : 1
    out[i] = signal[i] > LEAST ? scales[i] * fastInNoise(signal[i], noise[i], i, factor) : 0
  }
  return out
}

/** {@link inQuiet} of the loudness law in a filter, by tables. */
export function inQuietAt(filter: number, signal: number): number {
  return signal > LEAST ? look(quietTables[filter], signal) : 0
}

/** `inNoise` of the loudness law in a filter, by tables. */
export function inNoiseAt(filter: number, signal: number, noise: number): number {
  return signal > LEAST ? fastInNoise(signal, noise, filter, 1) : 0
}

/** The filter whose centre is nearest to a frequency. */
export function filterNear(hz: number): number {
  const place = (hzToErbNumber(hz) - hzToErbNumber(FILTER_HZ[0])) / ERB_STEP
  return Math.max(0, Math.min(FILTER_COUNT - 1, Math.round(place)))
}

function fastInNoise(signal: number, noise: number, i: number, factor: number): number {
  if (noise <= LEAST) return look(quietTables[i], signal)
  const f = constants[i]
  const table = aboveTables[i]
  const k = f.k * factor
  const threshold = k * noise + f.quiet
  const total = look(table, signal + noise)
  const noiseAtThreshold = look(table, noise * (1 + k) + f.quiet)
  if (signal >= threshold) {
    const taken = (noiseAtThreshold - f.quietLoudness) * look(powerTable, threshold / signal)
    return total > taken ? total - taken : 0
  }
  const noiseAlone = look(table, noise)
  const ratio = (2 * signal) / (signal + threshold)
  const rise = noiseAtThreshold - noiseAlone
  if (rise <= 0) return 0
  return (ratio * Math.sqrt(ratio) * f.quietLoudness * (total - noiseAlone)) / rise
}

/** Loudness in sones: specific loudness summed over the ERB scale. */
export function totalSone(specific: ArrayLike<number>): number {
  let sum = 0
  for (let i = 0; i < FILTER_COUNT; i++) sum += specific[i]
  return sum * ERB_STEP
}

/** The frequency of the lower edge of filter `i`'s quarter ERB; `FILTER_COUNT` gives the last upper edge. */
export function bandEdgeHz(i: number): number {
  return erbNumberToHz(hzToErbNumber(FILTER_HZ[0]) + (i - 0.5) * ERB_STEP)
}

/** Excitation under which a signal is hidden beside a noise in filter `i`: its masked threshold. */
export function maskedThreshold(noise: number, i: number, factor = 1): number {
  return constants[i].k * factor * noise + constants[i].quiet
}
