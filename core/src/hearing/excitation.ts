import { erbBandwidthHz, erbNumberToHz } from '../spectrum'
import type { WasmHost } from '../wasm'
import { SpreadKernel } from './spread-kernel'

/** Lowest input band, 20 Hz, and highest, in ERB numbers. */
const FIRST_ERB = 0.75
const LAST_ERB = 39
/** Spacing of bands and filters, in ERB numbers. */
export const ERB_STEP = 0.25

/**
 * Bands below this index carry power into the filters above them, but no filter of the ear stands there: the lowest is
 * that of ERB number 1.75 (44 Hz), as in Moore, Glasberg and Baer 1997.
 */
export const FIRST_FILTER = 4

/** Centre frequencies of input bands, in Hz; the auditory filters stand on the same places. */
export const FILTER_HZ: Float64Array = Float64Array.from(
  { length: Math.round((LAST_ERB - FIRST_ERB) / ERB_STEP) + 1 },
  (_, i) => erbNumberToHz(FIRST_ERB + i * ERB_STEP),
)
export const FILTER_COUNT = FILTER_HZ.length

const LOWEST_LEVEL_DB = -10
const HIGHEST_LEVEL_DB = 120
const LEVELS = HIGHEST_LEVEL_DB - LOWEST_LEVEL_DB + 1
/** Bands to either side of a band that make up one ERB, for the level that sets the slope. */
const HALF_ERB_BANDS = Math.floor(0.5 / ERB_STEP)
/** Skirts below this share are left out: 100 dB under the peak. */
const NEGLIGIBLE = 1e-10
/** Excitation below -20 dB SPL is left out: more than 20 dB under the threshold of hearing. */
const INAUDIBLE = 1e-2
const INAUDIBLE_DB = -20

/** One skirt of the rounded-exponential filter: share of the power at relative distance `g` that passes. */
export function roex(p: number, g: number): number {
  return (1 + p * g) * Math.exp(-p * g)
}

/**
 * Slope `p` of the side of the auditory filter at `hz` that faces lower frequencies, for an input of
 * `levelDb` per ERB: it grows shallower with level, which is why loud sounds mask upwards
 * (Glasberg and Moore 1990, eq. 5; Moore, Glasberg and Baer 1997).
 */
export function lowerSlope(hz: number, levelDb: number): number {
  const p = symmetricSlope(hz)
  return Math.max(0.1 * p, p - 0.35 * (p / symmetricSlope(1000)) * (levelDb - 51))
}

/** Slope of a symmetric filter, p = 4f/ERB: both sides at 51 dB per ERB, the upper side at all levels. */
export function symmetricSlope(hz: number): number {
  return (4 * hz) / erbBandwidthHz(hz)
}

/** Shares of one band's power that reach the filters at its place (or next to it) and outwards from there. */
type Skirt = Float64Array

let upper: Skirt[] | null = null
/** Skirts towards higher filters by level (rows made when first needed) and band. */
const lower: (Skirt[] | undefined)[] = new Array(LEVELS)

/** From the band down: the component meets the upper sides of filters, whose slope is fixed. */
function upperSkirts(): Skirt[] {
  upper ??= Array.from({ length: FILTER_COUNT }, (_, band) => skirt(band, 0, -1, symmetricSlope))
  return upper
}

/** From the next filter up: the component meets their lower sides. */
function lowerSkirts(levelIndex: number): Skirt[] {
  let row = lower[levelIndex]
  if (!row) {
    row = makeLowerSkirts(levelIndex)
    lower[levelIndex] = row
  }
  return row
}

function makeLowerSkirts(levelIndex: number): Skirt[] {
  const levelDb = LOWEST_LEVEL_DB + levelIndex
  return Array.from({ length: FILTER_COUNT }, (_, band) =>
    skirt(band, 1, 1, (hz) => lowerSlope(hz, levelDb)),
  )
}

function skirt(band: number, first: number, step: 1 | -1, slope: (hz: number) => number): Skirt {
  const shares: number[] = []
  for (let filter = band + first; filter >= 0 && filter < FILTER_COUNT; filter += step) {
    const hz = FILTER_HZ[filter]
    const share = roex(slope(hz), Math.abs(FILTER_HZ[band] - hz) / hz)
    if (share < NEGLIGIBLE) break
    shares.push(share)
  }
  return Float64Array.from(shares)
}

let kernel: SpreadKernel | null = null

/** Compiles the spreading in this realm; without it that is done in plain code, in double precision. */
export function installSpreadKernel(wasm: WasmHost): void {
  kernel = new SpreadKernel(wasm, {
    bands: FILTER_COUNT,
    levels: LEVELS,
    upper: upperSkirts,
    lower: makeLowerSkirts,
    // As far as they are heard.
    decades: (level) => Math.ceil((level + 1 + LOWEST_LEVEL_DB - INAUDIBLE_DB) / 10),
  })
}

/**
 * Excitation pattern of a sound.
 * @param intensity power in each quarter-ERB band at the cochlea, relative to 0 dB SPL.
 * @param out excitation of each filter, same unit.
 */
export function excitation(intensity: ArrayLike<number>, out: Float64Array): Float64Array {
  if (kernel) {
    kernel.begin(null)
    spreadBy(kernel, intensity, 0, FILTER_COUNT, 1)
    kernel.finish(out)
    return out
  }
  out.fill(0)
  spread(intensity, out, 0, FILTER_COUNT, 1)
  return out
}

/**
 * Brings an excitation pattern up to date when bands `from` to `to` go from `before` to `after`, which
 * are whole sets of bands as in {@link excitation}.
 */
export function changeExcitation(
  pattern: Float64Array,
  before: ArrayLike<number>,
  after: ArrayLike<number>,
  from: number,
  to: number,
): void {
  if (from >= to) return
  // Bands close by hear another level in their own ERB.
  const first = Math.max(0, from - HALF_ERB_BANDS)
  const last = Math.min(FILTER_COUNT, to + HALF_ERB_BANDS)
  if (kernel) {
    kernel.begin(pattern)
    spreadBy(kernel, before, first, last, -1)
    spreadBy(kernel, after, first, last, 1)
    kernel.finish(pattern)
  } else {
    spread(before, pattern, first, last, -1)
    spread(after, pattern, first, last, 1)
  }
  for (let b = 0; b < FILTER_COUNT; b++) if (pattern[b] < 0) pattern[b] = 0
}

/** The bands that {@link changeExcitation} looks at: those that change, and those whose level counts beside them. */
export function bandsAround(from: number, to: number): [number, number] {
  return [Math.max(0, from - 2 * HALF_ERB_BANDS), Math.min(FILTER_COUNT, to + 2 * HALF_ERB_BANDS)]
}

/** Adds what bands `from` to `to` bring to each filter, or takes it away with sign -1. */
function spread(
  intensity: ArrayLike<number>,
  out: Float64Array,
  from: number,
  to: number,
  sign: 1 | -1,
): void {
  const up = upperSkirts()
  for (let band = from; band < to; band++) {
    const power = intensity[band]
    if (power < INAUDIBLE) continue
    spreadSkirt(out, up[band], band, -1, sign * power, power)
    const index = levelIndex(intensity, band)
    spreadSkirt(out, lowerSkirts(index)[band], band + 1, 1, sign * power, power)
  }
}

/** One set of bands at hand, of one kind of array, whatever it came in. */
const powers = new Float64Array(FILTER_COUNT)

/** The same by the kernel. */
function spreadBy(
  by: SpreadKernel,
  intensity: ArrayLike<number>,
  from: number,
  to: number,
  sign: 1 | -1,
): void {
  powers.set(intensity)
  for (let band = from; band < to; band++) {
    const power = powers[band]
    if (power < INAUDIBLE) continue
    by.add(band, sign * power, levelIndex(powers, band))
  }
}

/** The table of slopes by the level in one ERB: whole decibels. */
function levelIndex(intensity: ArrayLike<number>, band: number): number {
  asFloat[0] = Math.max(powerPerErb(intensity, band), intensity[band])
  // A cell is an eighth of an octave and holds one edge between levels at most.
  const index = indexOfCell[asBits[0] >> CELL_SHIFT]
  return index < LEVELS - 1 && asFloat[0] >= edges[index] ? index + 1 : index
}

const asFloat = new Float32Array(1)
const asBits = new Int32Array(asFloat.buffer)
/** The bits of a 32-bit float from its third binary place on. */
const CELL_SHIFT = 20
/** Power from which the next level is nearer. */
const edges = Float64Array.from(
  { length: LEVELS },
  (_, index) => 10 ** ((index + 0.5 + LOWEST_LEVEL_DB) / 10),
)
/** The level at the lower end of each cell. */
const indexOfCell = Uint8Array.from({ length: 1 << (31 - CELL_SHIFT) }, (_, cell) => {
  asBits[0] = cell << CELL_SHIFT
  const db = 10 * Math.log10(asFloat[0])
  if (Number.isNaN(db)) return LEVELS - 1
  return Math.max(0, Math.min(LEVELS - 1, Math.round(db) - LOWEST_LEVEL_DB))
})

/** Power in one ERB around a band; the outermost two bands lie half outside it. */
function powerPerErb(intensity: ArrayLike<number>, band: number): number {
  const from = Math.max(0, band - HALF_ERB_BANDS)
  const to = Math.min(FILTER_COUNT - 1, band + HALF_ERB_BANDS)
  let sum = (intensity[from] + intensity[to]) / 2
  for (let b = from + 1; b < to; b++) sum += intensity[b]
  return sum
}

/** Adds one skirt. Shares fall outwards, so that it ends where it can no longer be heard. */
function spreadSkirt(
  out: Float64Array,
  shares: Skirt,
  first: number,
  step: 1 | -1,
  added: number,
  power: number,
): void {
  const enough = INAUDIBLE / power
  for (let i = 0, at = first; i < shares.length && shares[i] > enough; i++, at += step) {
    out[at] += added * shares[i]
  }
}
