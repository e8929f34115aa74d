import { CELLS, cellOf, hzOfCell, type StandOut, standOuts } from './ring-cells'

/** Levels are taken relative to their mean over this many cells to either side, half an octave. */
const BROAD_CELLS = 24
const LEAST_FRAME = 1e-9
const FLOOR = 1e-14
const CELL_LOW = 2 ** (-0.5 / 48)
const CELL_HIGH = 2 ** (0.5 / 48)
/** Frames that overlap by half tell about half as much as they are many. */
const FRAMES_PER_VISIT = 2

/**
 * Mean level of each cell over time, relative to its surroundings: what moves in pitch evens out, what
 * the channel adds remains (as in mean subtraction of log spectra). Good where pitch glides, as in voices.
 */
export class LevelProfile {
  readonly #sum = new Float64Array(CELLS)
  readonly #square = new Float64Array(CELLS)
  readonly #level = new Float64Array(CELLS)
  readonly #before = new Float64Array(CELLS + 1)
  #first = CELLS
  #last = -1
  #frames = 0

  /** Takes one frame's power spectrum, for cells from `fromHz` to `toHz`. */
  add(power: Float64Array, binHz: number, fromHz: number, toHz: number): void {
    const first = Math.max(0, cellOf(fromHz))
    const last = Math.min(CELLS - 1, cellOf(toHz))
    const low = Math.max(0, first - BROAD_CELLS)
    const high = Math.min(CELLS - 1, last + BROAD_CELLS)
    let sum = 0
    for (let bin = Math.floor(fromHz / binHz); bin <= toHz / binHz; bin++) sum += power[bin]
    if (sum < LEAST_FRAME) return
    for (let c = low; c <= high; c++) {
      this.#level[c] = levelAt(power, hzOfCell(c), binHz)
      this.#before[c + 1] = (c === low ? 0 : this.#before[c]) + this.#level[c]
    }
    this.#before[low] = 0
    for (let c = first; c <= last; c++) {
      const from = Math.max(low, c - BROAD_CELLS)
      const to = Math.min(high, c + BROAD_CELLS)
      const height = this.#level[c] - (this.#before[to + 1] - this.#before[from]) / (to - from + 1)
      this.#sum[c] += height
      this.#square[c] += height * height
    }
    this.#first = Math.min(this.#first, first)
    this.#last = Math.max(this.#last, last)
    this.#frames++
  }

  /** The rings of what was seen so far, those that stand out most first. */
  /** The places of what was seen so far that stand out, those that do so most first. */
  places(): StandOut[] {
    const visits = this.#frames / FRAMES_PER_VISIT
    const count = this.#sum.map((_, c) => (c >= this.#first && c <= this.#last ? visits : 0))
    const mean = this.#sum.map((sum) => sum / Math.max(1, this.#frames))
    const square = this.#square.map((sum) => sum / Math.max(1, this.#frames))
    return standOuts({ mean, count, square }, (s) => s.height > 0)
  }
}

/** Level in dB of a cell: between two bins where it is narrower than one, else the mean of its bins. */
function levelAt(power: Float64Array, hz: number, binHz: number): number {
  const from = (hz * CELL_LOW) / binHz
  const to = (hz * CELL_HIGH) / binHz
  if (to - from < 1) {
    const low = Math.floor(hz / binHz)
    const share = hz / binHz - low
    const a = Math.log(power[low] + FLOOR)
    return (10 / Math.LN10) * (a + share * (Math.log(power[low + 1] + FLOOR) - a))
  }
  let sum = 0
  let bins = 0
  for (let bin = Math.ceil(from); bin <= to; bin++) {
    sum += Math.log(power[bin] + FLOOR)
    bins++
  }
  return (10 / Math.LN10) * (sum / bins)
}
