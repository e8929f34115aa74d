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
  /** The same against their mean over an octave. */
  readonly against: Float32Array
  /** Level of each frame as a whole, in dB. */
  readonly whole: Float64Array
}

/** Levels of a mono signal. */
export function levelGrid(signal: Float32Array, sampleRateHz: number): LevelGrid {
  return makeGrid(signal, sampleRateHz, LEVELS, 1)
}

/** Levels in which what lies between partials shows. */
export function floorGrid(signal: Float32Array, sampleRateHz: number): LevelGrid {
  return makeGrid(signal, sampleRateHz, FLOORS, 2)
}

interface Range {
  readonly size: number
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

function makeGrid(
  signal: Float32Array,
  sampleRateHz: number,
  { window, ranges: given }: GridSettings,
  slower: number,
): LevelGrid {
  const hop = 2 ** Math.round(Math.log2(sampleRateHz * HOP_SECONDS)) * slower
  const ranges = rangesOf(sampleRateHz, window, given, hop)
  const most = ranges[0].size
  const padded = new Float32Array(signal.length + most)
  padded.set(signal, most / 2)
  const all = Math.max(1, Math.floor(signal.length / hop) + 1)
  const levels = new Float32Array(all * CELLS)
  const whole = new Float64Array(all)
  const sums = new Float64Array(most / 2 + 2)
  for (let f = 0; f < all; f++) {
    for (const range of ranges) {
      if (f % range.every !== 0) {
        // The frame before stands for it.
        const from = (f - (f % range.every)) * CELLS
        levels.copyWithin(f * CELLS + range.first, from + range.first, from + range.last)
        continue
      }
      const start = Math.min(padded.length - range.size, f * hop + (most - range.size) / 2)
      realFft(range.size).power(padded, start, range.window, range.scale, range.power)
      cellLevels(range, sums, levels, f * CELLS)
    }
    let power = 0
    for (let c = 0; c < CELLS; c++) power += 10 ** (levels[f * CELLS + c] / 10)
    whole[f] = 10 * Math.log10(power)
  }
  return keepLoud(levels, whole)
}

function rangesOf(
  sampleRateHz: number,
  name: GridSettings['window'],
  given: GridSettings['ranges'],
  hop: number,
): Range[] {
  let first = 0
  return given.map(({ seconds, toHz }) => {
    const size = 2 ** Math.round(Math.log2(sampleRateHz * seconds))
    const window = Float32Array.from(makeWindow(name, size))
    let square = 0
    for (const w of window) square += w * w
    let last = first
    const highest = Math.min(toHz, 0.47 * sampleRateHz)
    while (last < CELLS && hzOfCell(last) < highest) last++
    if (toHz === Number.POSITIVE_INFINITY) last = CELLS
    const binHz = sampleRateHz / size
    const edges = (side: -1 | 1) =>
      Float64Array.from({ length: last - first }, (_, i) => {
        const hz = hzOfCell(first + i)
        const half = Math.max(binHz, hz * (2 ** (0.5 / PER_OCTAVE) - 2 ** (-0.5 / PER_OCTAVE))) / 2
        return Math.min(size / 2, (hz + side * half) / binHz + 0.5)
      })
    const range = {
      size,
      window,
      scale: 1 / (size * square),
      power: new Float64Array(size / 2 + 1),
      first,
      last,
      every: Math.max(1, Math.round(size / 4 / hop)),
      low: edges(-1),
      high: edges(1),
    }
    first = last
    return range
  })
}

/** Mean power over each cell, bins taken as rectangles. */
function cellLevels(
  { power, first, last, low, high }: Range,
  sums: Float64Array,
  out: Float32Array,
  row: number,
): void {
  sums[0] = 0
  for (let k = 0; k < power.length; k++) sums[k + 1] = sums[k] + power[k]
  for (let c = first; c < last; c++) {
    const [a, b] = [low[c - first], high[c - first]]
    const width = Math.max(1e-9, b - a)
    out[row + c] = 10 * Math.log10(Math.max(FLOOR, (read(sums, b) - read(sums, a)) / width))
  }
}

function read(sums: Float64Array, at: number): number {
  const k = Math.floor(at)
  return sums[k] + (at - k) * (sums[Math.min(sums.length - 1, k + 1)] - sums[k])
}

function keepLoud(levels: Float32Array, whole: Float64Array): LevelGrid {
  const loudest = whole.reduce((a, b) => Math.max(a, b), -200)
  const kept: number[] = []
  whole.forEach((db, f) => {
    if (db > loudest - FRAME_RANGE_DB && db > -110) kept.push(f)
  })
  const out = new Float32Array(kept.length * CELLS)
  const against = new Float32Array(kept.length * CELLS)
  kept.forEach((f, i) => {
    const row = levels.subarray(f * CELLS, (f + 1) * CELLS)
    out.set(row, i * CELLS)
    const mean = runningMean(row)
    for (let c = 0; c < CELLS; c++) against[i * CELLS + c] = row[c] - mean[c]
  })
  return {
    frames: kept.length,
    levels: out,
    against,
    whole: Float64Array.from(kept, (f) => whole[f]),
  }
}

const prefix = new Float64Array(CELLS + 1)

/** Mean over half an octave to either side, over fewer cells at the ends. */
export function runningMean(values: ArrayLike<number>): Float64Array {
  for (let c = 0; c < CELLS; c++) prefix[c + 1] = prefix[c] + values[c]
  return Float64Array.from({ length: CELLS }, (_, c) => {
    const [low, high] = [Math.max(0, c - AROUND), Math.min(CELLS, c + AROUND + 1)]
    return (prefix[high] - prefix[low]) / (high - low)
  })
}
