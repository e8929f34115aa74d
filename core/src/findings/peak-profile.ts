import { CELLS, cellOf, type StandOut, standOuts } from './ring-cells'

/** Peaks this far under the strongest of their frame do not count, in dB. */
const PEAK_RANGE_DB = 50
/** Power of a frame, and of a peak, under which nothing is looked at. */
const LEAST_FRAME = 1e-8
const LEAST_PEAK = 1e-11

/** Neighbours of a peak lie this far away, in octaves; the outer ones only count when inner ones are few. */
const NEAR_OCTAVES = 0.11
const FAR_OCTAVES = 0.6
const FARTHEST_OCTAVES = 1.06
const ENOUGH_NEIGHBOURS = 3
const LEAST_NEIGHBOURS = 3
/** A spectrum that rises more than this from below to above a peak has its lowest partial there. */
const STEEPEST_RISE_DB = 12
/** Peaks are left out that stand this far under two stronger ones close by: one alone may be a ring. */
const PRUNERS = 2
const PRUNE_OCTAVES = 0.6
const PRUNE_DB = 18
const MOST_PEAKS = 4096

/** A partial that is not seen for more frames than this is over. */
const VISIT_GAP = 2
/** What stays longer counts as several visits. */
const LONGEST_VISIT = 12

/** Fewer separate sightings than this are an accident of the music. */
const LEAST_VISITS = 4
/** What stands higher is a line of the music. */
const MOST_DB = 15.5

/** A partial, or a bit of noise, while it stays within a cell or two. */
interface Visit {
  readonly cell: number
  last: number
  sum: number
  count: number
}

/**
 * How far spectral peaks stand above their neighbours, gathered over time. In each frame a peak is
 * compared with the straight line through the peaks below and above it. A fixed resonance lifts every
 * partial and every bit of noise that comes by; a harmonic series, a chord or a moving formant does not.
 */
export class PeakProfile {
  /** Per cell: visits, and sums over them of their mean height and of its square. */
  readonly #visits = new Float64Array(CELLS)
  readonly #sum = new Float64Array(CELLS)
  readonly #square = new Float64Array(CELLS)
  readonly #octaves = new Float64Array(MOST_PEAKS)
  readonly #db = new Float64Array(MOST_PEAKS)
  readonly #weak = new Uint8Array(MOST_PEAKS)
  /** Partials that go on from frame to frame, and which of them was last seen in each cell. */
  #live: Visit[] = []
  readonly #lastIn: (Visit | undefined)[] = new Array(CELLS)
  #frames = 0

  /** Takes one frame's power spectrum. Peaks beyond the span serve as neighbours only. */
  add(power: Float64Array, binHz: number, fromHz: number, toHz: number): void {
    const found = this.#findPeaks(power, binHz, fromHz / 2.2, toHz * 2.2)
    this.#frames++
    const count = this.#prune(found)
    for (let i = 0; i < count; i++) {
      const hz = 2 ** this.#octaves[i]
      if (hz < fromHz || hz >= toHz) continue
      const height = this.#height(i, count)
      const cell = cellOf(hz)
      if (!Number.isFinite(height) || cell < 0 || cell >= CELLS) continue
      this.#follow(cell, height)
    }
    this.#live = this.#live.filter((visit) => {
      if (this.#frames - visit.last <= VISIT_GAP) return true
      this.#end(visit)
      return false
    })
  }

  /** The places of what was seen so far that stand out, those that do so most first. */
  places(): StandOut[] {
    for (const visit of this.#live) this.#end(visit)
    this.#live = []
    const mean = this.#sum.map((sum, c) => sum / this.#visits[c])
    const square = this.#square.map((sum, c) => sum / this.#visits[c])
    return standOuts(
      { mean, count: this.#visits, square },
      (s) => s.visits >= LEAST_VISITS && s.height >= 0 && s.db <= MOST_DB,
    )
  }

  /** Adds a sighting to the partial that it continues, or begins a new visit. */
  #follow(cell: number, height: number): void {
    for (let c = Math.max(0, cell - 1); c <= Math.min(CELLS - 1, cell + 1); c++) {
      const visit = this.#lastIn[c]
      if (!visit || visit.last === this.#frames || this.#frames - visit.last > VISIT_GAP) continue
      if (Math.abs(visit.cell - cell) > 1 || visit.count >= LONGEST_VISIT) continue
      visit.last = this.#frames
      visit.sum += height
      visit.count++
      this.#lastIn[cell] = visit
      return
    }
    const visit = { cell, last: this.#frames, sum: height, count: 1 }
    this.#live.push(visit)
    this.#lastIn[cell] = visit
  }

  #end({ cell, sum, count }: Visit): void {
    const mean = sum / count
    this.#visits[cell]++
    this.#sum[cell] += mean
    this.#square[cell] += mean * mean
  }

  #findPeaks(power: Float64Array, binHz: number, fromHz: number, toHz: number): number {
    const first = Math.max(2, Math.ceil(fromHz / binHz))
    const last = Math.min(power.length - 3, Math.floor(toHz / binHz))
    let strongest = 0
    let sum = 0
    for (let bin = first; bin <= last; bin++) {
      sum += power[bin]
      if (power[bin] > strongest) strongest = power[bin]
    }
    if (sum < LEAST_FRAME) return 0
    const least = Math.max(LEAST_PEAK, strongest * 10 ** (-PEAK_RANGE_DB / 10))
    let count = 0
    for (let bin = first; bin <= last && count < MOST_PEAKS; bin++) {
      const p = power[bin]
      if (p < least || p <= power[bin - 1] || p < power[bin + 1]) continue
      if (p <= power[bin - 2] || p < power[bin + 2]) continue
      // A parabola through three points of the logarithm finds the top between bins.
      const a = Math.log(power[bin - 1] + 1e-30)
      const b = Math.log(p)
      const c = Math.log(power[bin + 1] + 1e-30)
      const shift = (0.5 * (a - c)) / (a - 2 * b + c)
      this.#octaves[count] = Math.log2((bin + shift) * binHz)
      this.#db[count] = (10 / Math.LN10) * (b - 0.25 * (a - c) * shift)
      count++
    }
    return count
  }

  /** Leaves out what stands far below stronger peaks close by: noise between partials, skirts of the window. */
  #prune(count: number): number {
    for (let i = 0; i < count; i++) {
      const stronger = this.#stronger(i, -1, count) + this.#stronger(i, 1, count)
      this.#weak[i] = stronger >= PRUNERS ? 1 : 0
    }
    let kept = 0
    for (let i = 0; i < count; i++) {
      if (this.#weak[i]) continue
      this.#octaves[kept] = this.#octaves[i]
      this.#db[kept++] = this.#db[i]
    }
    return kept
  }

  /** Peaks close by on one side that stand far above one; more than two are not counted. */
  #stronger(i: number, step: 1 | -1, count: number): number {
    let found = 0
    for (let k = i + step; k >= 0 && k < count && found < PRUNERS; k += step) {
      if (Math.abs(this.#octaves[k] - this.#octaves[i]) > PRUNE_OCTAVES) break
      if (this.#db[k] > this.#db[i] + PRUNE_DB) found++
    }
    return found
  }

  /** Height of a peak over the line through its neighbours; NaN where they do not suffice. */
  #height(i: number, count: number): number {
    const below = this.#side(i, -1, count)
    if (!below) return Number.NaN
    const above = this.#side(i, 1, count)
    if (!above || below.n + above.n < LEAST_NEIGHBOURS) return Number.NaN
    if (above.db - below.db > STEEPEST_RISE_DB) return Number.NaN
    const share = below.away / (below.away + above.away)
    return this.#db[i] - (below.db + share * (above.db - below.db))
  }

  /** Mean level and distance of the neighbours on one side. */
  #side(i: number, step: 1 | -1, count: number): { n: number; away: number; db: number } | null {
    let n = 0
    let away = 0
    let db = 0
    for (let k = i + step; k >= 0 && k < count; k += step) {
      const distance = Math.abs(this.#octaves[k] - this.#octaves[i])
      if (distance < NEAR_OCTAVES) continue
      if (distance > FARTHEST_OCTAVES || (distance > FAR_OCTAVES && n >= ENOUGH_NEIGHBOURS)) break
      n++
      away += distance
      db += this.#db[k]
    }
    return n > 0 ? { n, away: away / n, db: db / n } : null
  }
}
