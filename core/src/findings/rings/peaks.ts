import { CELLS, type LevelGrid } from './level-grid'

/** What spectral peaks of the frames say at each cell: how far they stand over the peaks around them, in dB. */
export interface PeakCurves {
  /** Mean over all peaks near a cell, drawn to 0 where few come by. */
  readonly mean: Float64Array
  /** Peaks a frame. */
  readonly share: Float64Array
  /** A quarter of the peaks lie under this, a quarter over that. */
  readonly low: Float64Array
  readonly high: Float64Array
  /** Mean over parts of the time against its scatter; and what a quarter of the parts lie under. */
  readonly steadiness: Float64Array
  readonly leastPart: Float64Array
  /** Mean over what the places beside have at most. */
  readonly overBeside: Float64Array
}

/** A peak is the highest of five cells and stands over the lower of its sides by this. */
const PROMINENCE_DB = 2
const SIDE = 5
/** Peaks around one lie this far to either side, those at a quarter of an octave count little. */
const NEAREST = 3
const FARTHEST = 28
const SPREAD = 12
const MOST_DB = 25
/** A peak counts for the cells about it. */
const NEAR = [0.3, 0.75, 1, 0.75, 0.3] as const
const PARTS = 7
const LEAST_IN_PART = 2
const LEAST_SCATTER_DB = 2
/** Fewer peaks than one in so many frames say nothing; the mean counts as many that are like those around them. */
const LEAST_SHARE = 0.03
/** What is said where hardly a peak comes by. */
const UNSEEN_LOW_DB = -3
/** Places beside one begin where a bell has ended. */
const BESIDE_FROM = 5
const BESIDE_TO = 14

const weights = Float64Array.from({ length: FARTHEST + 1 }, (_, d) =>
  d < NEAREST ? 0 : Math.exp(-0.5 * (d / SPREAD) ** 2),
)

/**
 * Holds every partial against the partials around it in its own frame. What lies between partials counts for nothing, so
 * that a fixed bell shows in sounds with few notes, where levels at single places rise and fall with what is played.
 */
export function peakCurves(grid: LevelGrid): PeakCurves {
  const { frames } = grid
  const heights: number[][] = Array.from({ length: CELLS }, () => [])
  const zeros = () => Float64Array.from({ length: CELLS }, () => 0)
  const parts = Array.from({ length: PARTS }, () => ({ sum: zeros(), count: zeros() }))
  const reach = NEAR.length >> 1
  for (let f = 0; f < frames; f++) {
    const { sum, count } = parts[Math.floor((f * PARTS) / frames)]
    for (const { cell, db } of heightsOfPeaks(grid.levels.subarray(f * CELLS, (f + 1) * CELLS))) {
      for (let k = -reach; k <= reach; k++) {
        const c = cell + k
        sum[c] += NEAR[k + reach] * db
        count[c] += NEAR[k + reach]
        if (Math.abs(k) < reach) heights[c].push(db)
      }
    }
  }
  const share = zeros()
  const mean = zeros()
  for (let c = 0; c < CELLS; c++) {
    const [sum, count] = [
      parts.reduce((s, p) => s + p.sum[c], 0),
      parts.reduce((s, p) => s + p.count[c], 0),
    ]
    share[c] = count / Math.max(1, frames)
    mean[c] = sum / Math.max(1e-9, count + LEAST_SHARE * frames)
  }
  const low = zeros()
  const high = zeros()
  heights.forEach((list, c) => {
    const isSeen = list.length > 0 && list.length >= LEAST_SHARE * frames
    const sorted = Float32Array.from(list).sort()
    low[c] = isSeen ? sorted[list.length >> 2] : UNSEEN_LOW_DB
    high[c] = isSeen ? sorted[Math.floor(0.75 * list.length)] : 0
  })
  const [steadiness, leastPart] = [zeros(), zeros()]
  for (let c = 0; c < CELLS; c++) {
    const means = parts.flatMap(({ sum, count }) =>
      count[c] > LEAST_IN_PART ? [sum[c] / count[c]] : [],
    )
    if (means.length < 2) continue
    const middle = means.reduce((a, b) => a + b, 0) / means.length
    const square = means.reduce((a, b) => a + (b - middle) ** 2, 0) / (means.length - 1)
    steadiness[c] = middle / Math.hypot(LEAST_SCATTER_DB, Math.sqrt(square / means.length))
    leastPart[c] = means.sort((a, b) => a - b)[means.length >> 2]
  }
  return {
    mean,
    share,
    low,
    high,
    steadiness,
    leastPart,
    overBeside: overBeside(mean),
  }
}

function overBeside(mean: Float64Array): Float64Array {
  return mean.map((db, c) => {
    let most = Number.NEGATIVE_INFINITY
    for (let k = BESIDE_FROM; k <= BESIDE_TO; k++) {
      most = Math.max(most, mean[Math.max(0, c - k)], mean[Math.min(CELLS - 1, c + k)])
    }
    return db - most
  })
}

/** The peaks of a frame that have others on both sides, and how far they stand over those. */
function heightsOfPeaks(levels: Float32Array): { cell: number; db: number }[] {
  const cells: number[] = []
  for (let c = 2; c < CELLS - 2; c++) if (isPeak(levels, c)) cells.push(c)
  const meanBeside = (i: number, step: -1 | 1) => {
    let [sum, weight] = [0, 0]
    for (let j = i + step; j >= 0 && j < cells.length; j += step) {
      const apart = Math.abs(cells[j] - cells[i])
      if (apart > FARTHEST) break
      sum += weights[apart] * levels[cells[j]]
      weight += weights[apart]
    }
    return sum / weight
  }
  return cells.flatMap((cell, i) => {
    const around = (meanBeside(i, -1) + meanBeside(i, 1)) / 2
    if (Number.isNaN(around)) return []
    return [{ cell, db: Math.max(-MOST_DB, Math.min(MOST_DB, levels[cell] - around)) }]
  })
}

function isPeak(levels: Float32Array, c: number): boolean {
  const db = levels[c]
  if (db < levels[c - 1] || db <= levels[c + 1] || db < levels[c - 2] || db < levels[c + 2])
    return false
  let [below, above] = [db, db]
  for (let k = 1; k <= SIDE; k++) {
    below = Math.min(below, levels[Math.max(0, c - k)])
    above = Math.min(above, levels[Math.min(CELLS - 1, c + k)])
  }
  return db - Math.max(below, above) >= PROMINENCE_DB
}
