import { decimate, seededRandom } from '../../audio'
import { makeWindow, realFft } from '../../spectrum'

/** Cells over log frequency in which rings are looked for: 48 an octave from 70 Hz to 14 kHz. */
export const PER_OCTAVE = 48
const LOWEST_HZ = 70
const HIGHEST_HZ = 14_000
export const CELLS = Math.floor(PER_OCTAVE * Math.log2(HIGHEST_HZ / LOWEST_HZ)) + 1
/** Half an octave: levels are told against the mean this far to either side. */
const AROUND = 24
/** Frames this far under the loudest one are left out, in dB. */
const FRAME_RANGE_DB = 45
const FLOOR = 1e-14
/** Of longer sounds about so many frames are read (22 s), in runs of so many. */
const MOST_FRAMES = 512
const RUN = 8
const SEED = 48
/** What decimating leaves even, as a part of the rate, with room for a window's lobes; and the shortest window. */
const FLAT_PART = 0.33
const LEAST_SIZE = 256

/** Centre of a cell in Hz; places between cells are read on the same scale. */
export function hzOfCell(cell: number): number {
  return LOWEST_HZ * 2 ** (cell / PER_OCTAVE)
}

/** Windows of a grid, in seconds, each up to a frequency; frames and their spacing. */
interface GridSettings {
  readonly window: 'hann' | 'blackman-harris'
  readonly ranges: readonly { readonly seconds: number; readonly toHz: number }[]
}

/** For levels, and for the floor between partials, which needs lower side lobes. */
const LEVELS: GridSettings = {
  window: 'hann',
  ranges: [
    { seconds: 0.3413, toHz: 320 },
    { seconds: 0.1707, toHz: 1200 },
    { seconds: 0.0853, toHz: Number.POSITIVE_INFINITY },
  ],
}
const FLOORS: GridSettings = {
  window: 'blackman-harris',
  ranges: [
    { seconds: 0.3413, toHz: 1200 },
    { seconds: 0.1707, toHz: Number.POSITIVE_INFINITY },
  ],
}
const HOP_SECONDS = 0.0427

/** Levels of cells over the frames of a sound that are loud enough, `frames × CELLS`, in dB. */
export interface LevelGrid {
  readonly frames: number
  readonly levels: Float32Array
  /** The same as powers. */
  readonly powers: Float32Array
  /** Levels against their mean over an octave, and that as a ratio of powers. */
  readonly against: Float32Array
  readonly raised: Float32Array
  /** How far the level as a whole has risen since the frame before, in dB; -Infinity where that one was not read. */
  readonly rise: Float64Array
  /** Level of each frame as a whole, in dB. */
  readonly whole: Float64Array
}

/** Levels of a mono signal, and levels in which what lies between partials shows. */
export function levelGrids(
  signal: Float32Array,
  sampleRateHz: number,
): { readonly levels: LevelGrid; readonly floor: LevelGrid } {
  const rates = [signal]
  return {
    levels: makeGrid(rates, sampleRateHz, LEVELS, 1),
    floor: makeGrid(rates, sampleRateHz, FLOORS, 2),
  }
}

interface Range {
  /** Its window in samples, at the rate halved this many times. */
  readonly size: number
  readonly halvings: number
  readonly window: Float32Array
  readonly scale: number
  readonly power: Float64Array
  readonly first: number
  readonly last: number
  /** Every how many frames it is measured; the nearest one stands for the others. */
  readonly every: number
  /** Edges of its cells, in bins. */
  readonly low: Float64Array
  readonly high: Float64Array
}

/** @param signals the sound at its own rate; at a half of it, a quarter and so on as far as it was needed. */
function makeGrid(
  signals: Float32Array[],
  sampleRateHz: number,
  { window, ranges: given }: GridSettings,
  slower: number,
): LevelGrid {
  const hop = 2 ** Math.round(Math.log2(sampleRateHz * HOP_SECONDS)) * slower
  const ranges = rangesOf(sampleRateHz, window, given, hop)
  while (signals.length <= ranges[0].halvings) {
    signals.push(decimate(signals[signals.length - 1], 1))
  }
  const most = Math.max(...ranges.map((r) => r.size))
  const runs = chooseRuns(signals[0], hop, Math.round(MOST_FRAMES / slower))
  const all = runs.reduce((sum, { from, to }) => sum + to - from, 0)
  const powers = new Float32Array(all * CELLS)
  const whole = new Float64Array(all)
  const follows = new Uint8Array(all)
  const sums = new Float64Array(most / 2 + 2)
  const piece = new Float32Array(most)
  let row = 0
  for (const { from, to } of runs) {
    for (let f = from; f < to; f++, row++) {
      for (const range of ranges) {
        const since = (f - from) % range.every
        if (since !== 0) {
          // The frame before stands for it.
          const start = (row - since) * CELLS
          powers.copyWithin(row * CELLS + range.first, start + range.first, start + range.last)
          continue
        }
        const { halvings } = range
        takePiece(signals[halvings], (f * hop) / 2 ** halvings - range.size / 2, piece, range.size)
        realFft(range.size).power(piece, 0, range.window, range.scale, range.power)
        cellPowers(range, sums, powers, row * CELLS)
      }
      let power = 0
      for (let c = 0; c < CELLS; c++) power += powers[row * CELLS + c]
      whole[row] = 10 * Math.log10(power)
      follows[row] = f > from ? 1 : 0
    }
  }
  return keepLoud(powers, whole, follows)
}

/** How often the rate may be halved for what is looked at up to a frequency. */
function halvingsFor(toHz: number, sampleRateHz: number, size: number): number {
  let halvings = 0
  while (
    toHz < FLAT_PART * sampleRateHz * 2 ** -(halvings + 1) &&
    size / 2 ** (halvings + 1) >= LEAST_SIZE
  ) {
    halvings++
  }
  return halvings
}

/** Samples from a place on; silence beyond the ends. */
function takePiece(signal: Float32Array, from: number, out: Float32Array, size: number): void {
  const [a, b] = [Math.max(0, from), Math.min(signal.length, from + size)]
  out.fill(0, 0, size)
  if (b > a) out.set(signal.subarray(a, b), a - from)
}

interface Run {
  readonly from: number
  readonly to: number
}

/**
 * The frames that are read: all of a short sound. Of a longer one runs of some frames each, one drawn from each of equal
 * parts of what sounds, so that the cost has a bound and no tempo is met in step.
 */
function chooseRuns(signal: Float32Array, hop: number, most: number): Run[] {
  const all = Math.max(1, Math.floor(signal.length / hop) + 1)
  if (all <= most) return [{ from: 0, to: all }]
  const loud = loudFrames(signal, hop, all)
  if (loud.length <= most) return runsOf(loud)
  const random = seededRandom(SEED)
  const parts = Math.floor(most / RUN)
  const chosen = new Set<number>()
  for (let p = 0; p < parts; p++) {
    const at = loud[Math.floor(((p + random()) * loud.length) / parts)]
    for (let f = at; f < Math.min(all, at + RUN); f++) chosen.add(f)
  }
  return runsOf([...chosen].sort((a, b) => a - b))
}

/** Frames around which a sound is about loud enough, by its mean square over the hop. */
function loudFrames(signal: Float32Array, hop: number, all: number): number[] {
  const squares = new Float64Array(all)
  for (let f = 0; f < all; f++) {
    const to = Math.min(signal.length, f * hop + hop / 2)
    let sum = 0
    for (let i = Math.max(0, f * hop - hop / 2); i < to; i++) sum += signal[i] * signal[i]
    squares[f] = sum
  }
  const least = squares.reduce((a, b) => Math.max(a, b), 0) * 10 ** (-FRAME_RANGE_DB / 10)
  return Array.from({ length: all }, (_, f) => f).filter((f) => squares[f] > least)
}

function runsOf(frames: readonly number[]): Run[] {
  const out: { from: number; to: number }[] = []
  for (const f of frames) {
    const last = out[out.length - 1]
    if (last && last.to === f) last.to = f + 1
    else out.push({ from: f, to: f + 1 })
  }
  return out
}

function rangesOf(
  sampleRateHz: number,
  name: GridSettings['window'],
  given: GridSettings['ranges'],
  hop: number,
): Range[] {
  let first = 0
  return given.map(({ seconds, toHz }) => {
    const whole = 2 ** Math.round(Math.log2(sampleRateHz * seconds))
    const halvings = halvingsFor(toHz, sampleRateHz, whole)
    const size = whole / 2 ** halvings
    const window = Float32Array.from(makeWindow(name, size))
    let square = 0
    for (const w of window) square += w * w
    let last = first
    const highest = Math.min(toHz, 0.47 * sampleRateHz)
    while (last < CELLS && hzOfCell(last) < highest) last++
    if (toHz === Number.POSITIVE_INFINITY) last = CELLS
    const binHz = sampleRateHz / whole
    const edges = (side: -1 | 1) =>
      Float64Array.from({ length: last - first }, (_, i) => {
        const hz = hzOfCell(first + i)
        const half = Math.max(binHz, hz * (2 ** (0.5 / PER_OCTAVE) - 2 ** (-0.5 / PER_OCTAVE))) / 2
        return Math.min(size / 2, (hz + side * half) / binHz + 0.5)
      })
    const range = {
      size,
      halvings,
      window,
      scale: 1 / (size * square),
      power: new Float64Array(size / 2 + 1),
      first,
      last,
      every: Math.max(1, Math.round(whole / 4 / hop)),
      low: edges(-1),
      high: edges(1),
    }
    first = last
    return range
  })
}

/** Mean power over each cell, bins taken as rectangles. */
function cellPowers(
  { power, first, last, low, high }: Range,
  sums: Float64Array,
  out: Float32Array,
  row: number,
): void {
  const from = Math.floor(low[0])
  const to = Math.min(power.length - 1, Math.floor(high[last - first - 1]) + 1)
  let sum = 0
  sums[from] = 0
  for (let k = from; k <= to; k++) {
    sum += power[k]
    sums[k + 1] = sum
  }
  for (let c = first; c < last; c++) {
    const [a, b] = [low[c - first], high[c - first]]
    const width = Math.max(1e-9, b - a)
    out[row + c] = Math.max(FLOOR, (read(sums, b) - read(sums, a)) / width)
  }
}

function read(sums: Float64Array, at: number): number {
  const k = Math.floor(at)
  return sums[k] + (at - k) * (sums[Math.min(sums.length - 1, k + 1)] - sums[k])
}

function keepLoud(powers: Float32Array, whole: Float64Array, follows: Uint8Array): LevelGrid {
  const loudest = whole.reduce((a, b) => Math.max(a, b), -200)
  const kept: number[] = []
  whole.forEach((db, f) => {
    if (db > loudest - FRAME_RANGE_DB && db > -110) kept.push(f)
  })
  const [keptPowers, levels, against, raised] = Array.from(
    { length: 4 },
    () => new Float32Array(kept.length * CELLS),
  )
  const mean = new Float64Array(CELLS)
  kept.forEach((f, i) => {
    const at = i * CELLS
    keptPowers.set(powers.subarray(f * CELLS, (f + 1) * CELLS), at)
    const row = levels.subarray(at, at + CELLS)
    for (let c = 0; c < CELLS; c++) row[c] = 10 * Math.log10(keptPowers[at + c])
    runningMean(row, mean)
    for (let c = 0; c < CELLS; c++) {
      against[at + c] = row[c] - mean[c]
      raised[at + c] = 10 ** (against[at + c] / 10)
    }
  })
  return {
    frames: kept.length,
    levels,
    powers: keptPowers,
    against,
    raised,
    rise: Float64Array.from(kept, (f) =>
      follows[f] ? whole[f] - whole[f - 1] : Number.NEGATIVE_INFINITY,
    ),
    whole: Float64Array.from(kept, (f) => whole[f]),
  }
}

const prefix = new Float64Array(CELLS + 1)

/** Mean over half an octave to either side, over fewer cells at the ends. */
export function runningMean(values: ArrayLike<number>, out: Float64Array): void {
  for (let c = 0; c < CELLS; c++) prefix[c + 1] = prefix[c] + values[c]
  for (let c = 0; c < CELLS; c++) {
    const low = c > AROUND ? c - AROUND : 0
    const high = c + AROUND + 1 < CELLS ? c + AROUND + 1 : CELLS
    out[c] = (prefix[high] - prefix[low]) / (high - low)
  }
}
