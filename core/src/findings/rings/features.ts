import { clustersOf } from './clusters'
import { CELLS, type LevelGrid, PER_OCTAVE, runningMean } from './level-grid'
import { BELL_QS, box, fitBell, standardBox } from './operators'
import { peakCurves } from './peaks'

/** What may tell a ring at each cell, by name. */
export type Features = ReadonlyMap<string, Float64Array>

/** The sound is cut into this many parts of time; a part needs so many frames. */
const PARTS = 7
const LEAST_IN_PART = 8
/** A part, or a kind of spectrum, shows a ring from this height on, in dB. */
const SHOWS_DB = 2.5
const LEAST_SCATTER_DB = 0.7
/** Moments of most rise, and the softest ones. */
const RISING_SHARE = 0.15
const SOFT_SHARE = 0.3
/** Kinds of spectra: by their broad shape, and by their fine one. */
const COARSE = 5
const FINE = 8
const LEAST_IN_CLUSTER = 5
const FINE_FIRST = 24
const FINE_LAST = 311
const MOST_FINE_DB = 15
const TWELFTH = Math.round(PER_OCTAVE * Math.log2(3))
const FIFTH = Math.round(PER_OCTAVE * Math.log2(1.5))

/**
 * What a fixed bell does to a sound: at its place every statistic of the level stands over both flanks, in loud moments
 * and soft ones, in partials of any note and in the floor between them. A note raises some, and comes with its octave,
 * twelfth and fifth.
 */
export function ringFeatures(grid: LevelGrid, floor: LevelGrid): Features {
  const out = new Map<string, Float64Array>()
  const profiles = profilesOf(grid)
  const { ltas, wpow, wp, mean, q10, q25, q90, sd } = profiles
  const v5 = quantiles(floor, [0.05])[0]
  out.set('ltas3', box(ltas, 3))
  out.set('ltas2z', standardBox(ltas))
  out.set('wpow5', box(wpow, 5))
  out.set('q10z', standardBox(q10))
  out.set('q25z', standardBox(q25))
  out.set('q90', box(q90, 1))
  out.set('sd', box(sd, 2))
  out.set('floor3', box(v5, 3))
  const meanBells = BELL_QS.map((q) => fitBell(mean, q))
  out.set('mean8t', meanBells[0].t)
  out.set('q25t24', fitBell(q25, 24).t)
  overTime(grid, out)
  kindsOfMoments(grid, out)
  kindsOfSpectra(grid, out)
  const peaks = peakCurves(grid)
  out.set('peakMean', peaks.mean)
  out.set('peakShare', peaks.share)
  out.set('peakLow', peaks.low)
  out.set('peakHigh', peaks.high)
  out.set('peakSteadiness', peaks.steadiness)
  out.set('peakLeastPart', peaks.leastPart)
  out.set('peakOverBeside', peaks.overBeside)
  out.set('excLtas2', exceeding(box(ltas, 2)))
  out.set('excFloor2', exceeding(box(v5, 2)))
  out.set('excQ25t14', exceeding(fitBell(q25, 14).t))
  out.set('excWpt14', exceeding(fitBell(wp, 14).t))
  out.set('twelfthMean14', beside(meanBells[1].t, TWELFTH))
  out.set(
    'octave',
    Float64Array.from({ length: CELLS }, (_, c) => c / PER_OCTAVE),
  )
  return out
}

interface Profiles {
  readonly ltas: Float64Array
  readonly wpow: Float64Array
  readonly wp: Float64Array
  readonly mean: Float64Array
  readonly q10: Float64Array
  readonly q25: Float64Array
  readonly q90: Float64Array
  readonly sd: Float64Array
}

function profilesOf(grid: LevelGrid): Profiles {
  const { frames, powers, against, raised: ratios } = grid
  const n = Math.max(1, frames)
  const [power, relative, raised, mean, square, around] = Array.from(
    { length: 6 },
    () => new Float64Array(CELLS),
  )
  for (let f = 0; f < frames; f++) {
    const row = powers.subarray(f * CELLS, (f + 1) * CELLS)
    runningMean(row, around)
    for (let c = 0; c < CELLS; c++) {
      const w = against[f * CELLS + c]
      power[c] += row[c]
      relative[c] += row[c] / around[c]
      raised[c] += ratios[f * CELLS + c]
      mean[c] += w
      square[c] += w * w
    }
  }
  const db = (sum: Float64Array) => sum.map((v) => 10 * Math.log10(v / n + 1e-14))
  const means = mean.map((v) => v / n)
  const [q10, q25, q90] = quantiles(grid, [0.1, 0.25, 0.9])
  return {
    ltas: db(power),
    wpow: db(relative),
    wp: db(raised),
    mean: means,
    q10,
    q25,
    q90,
    sd: square.map((v, c) => Math.sqrt(Math.max(0, v / n - means[c] ** 2))),
  }
}

/** The mean of levels against their surroundings: what a ring's height and width are read from. */
export function meanProfile({ frames, against }: LevelGrid): Float64Array {
  return meanOf(
    against,
    Array.from({ length: frames }, (_, f) => f),
  )
}

function quantiles({ frames, against }: LevelGrid, shares: readonly number[]): Float64Array[] {
  const out = shares.map(() => new Float64Array(CELLS))
  const column = new Float32Array(frames)
  for (let c = 0; c < CELLS && frames > 0; c++) {
    for (let f = 0; f < frames; f++) column[f] = against[f * CELLS + c]
    column.sort()
    shares.forEach((share, i) => {
      out[i][c] = column[Math.min(frames - 1, Math.floor(share * frames))]
    })
  }
  return out
}

function meanOf(values: Float32Array, frames: readonly number[]): Float64Array {
  const out = new Float64Array(CELLS)
  for (const f of frames) for (let c = 0; c < CELLS; c++) out[c] += values[f * CELLS + c]
  return out.map((v) => v / Math.max(1, frames.length))
}

/** Whether it is there all the time. */
function overTime(
  { frames, against, raised: ratios }: LevelGrid,
  out: Map<string, Float64Array>,
): void {
  const raised: Float64Array[] = []
  const shown: Float64Array[] = []
  const heights: Float64Array[] = []
  for (let p = 0; p < PARTS; p++) {
    const [from, to] = [Math.floor((p * frames) / PARTS), Math.floor(((p + 1) * frames) / PARTS)]
    if (to - from < LEAST_IN_PART) continue
    const list = Array.from({ length: to - from }, (_, i) => from + i)
    const power = new Float64Array(CELLS)
    for (const f of list) for (let c = 0; c < CELLS; c++) power[c] += ratios[f * CELLS + c]
    raised.push(
      box(
        power.map((v) => 10 * Math.log10(v / list.length + 1e-14)),
        1,
      ),
    )
    const mean = meanOf(against, list)
    shown.push(box(mean, 4))
    heights.push(box(mean, 2))
  }
  const each = (read: (c: number) => number) =>
    Float64Array.from({ length: CELLS }, (_, c) => (raised.length > 0 ? read(c) : 0))
  out.set(
    'partsLow',
    each((c) => raised.map((r) => r[c]).sort((a, b) => a - b)[Math.min(1, raised.length - 1)]),
  )
  out.set(
    'partsT',
    each((c) => steadiness(raised, c)),
  )
  out.set(
    'partsShare',
    each((c) => shown.filter((s) => s[c] > SHOWS_DB).length / shown.length),
  )
  out.set('excParts', exceeding(each((c) => steadiness(heights, c))))
}

/** Mean over parts against how far they scatter. */
function steadiness(parts: readonly Float64Array[], c: number): number {
  const n = parts.length
  let [sum, square] = [0, 0]
  for (const part of parts) {
    sum += part[c]
    square += part[c] * part[c]
  }
  const mean = sum / n
  const sd = Math.sqrt(Math.max(0, square / n - mean * mean))
  return mean / (sd / Math.sqrt(n) + LEAST_SCATTER_DB)
}

/** Whether it is there when the level rises, and when it is soft. */
function kindsOfMoments(
  { frames, against, whole, rise }: LevelGrid,
  out: Map<string, Float64Array>,
): void {
  const order = Array.from({ length: frames }, (_, f) => f)
  const rising = [...order]
    .sort((a, b) => (rise[b] > rise[a] ? 1 : rise[b] < rise[a] ? -1 : 0))
    .slice(0, Math.ceil(RISING_SHARE * frames))
  const soft = [...order]
    .sort((a, b) => whole[a] - whole[b])
    .slice(0, Math.ceil(SOFT_SHARE * frames))
  out.set('rising', box(meanOf(against, rising), 2))
  out.set('softT', fitBell(meanOf(against, soft), 14).t)
}

/** Whether it is there in spectra of every kind. */
function kindsOfSpectra(
  { frames, levels, against }: LevelGrid,
  out: Map<string, Float64Array>,
): void {
  const size = Math.floor(CELLS / 24)
  const broad = new Float32Array(frames * size)
  for (let f = 0; f < frames; f++) {
    let mean = 0
    for (let i = 0; i < size; i++) {
      let sum = 0
      for (let c = 24 * i; c < 24 * (i + 1); c++) sum += levels[f * CELLS + c]
      broad[f * size + i] = sum / 24
      mean += sum / 24 / size
    }
    for (let i = 0; i < size; i++) broad[f * size + i] -= mean
  }
  const coarse = clusterMeans(against, clustersOf(broad, size, COARSE), COARSE)
  out.set('coarseShare', shareOver(coarse.map((m) => box(m, 4))))
  out.set('coarseT', meanRow(coarse.map((m) => fitBell(m, 14).t)))
  const pairs = Math.floor((FINE_LAST - FINE_FIRST + 1) / 2)
  const narrow = new Float32Array(frames * pairs)
  for (let f = 0; f < frames; f++) {
    for (let i = 0; i < pairs; i++) {
      const c = f * CELLS + FINE_FIRST + 2 * i
      const w = (against[c] + against[c + 1]) / 2
      narrow[f * pairs + i] = Math.max(-MOST_FINE_DB, Math.min(MOST_FINE_DB, w))
    }
  }
  const fine = clusterMeans(against, clustersOf(narrow, pairs, FINE), FINE)
  out.set('fineShare', shareOver(fine.map((m) => box(m, 1))))
  out.set('fifthFine', beside(shareOver(fine.map((m) => box(m, 2))), FIFTH))
}

function clusterMeans(
  against: Float32Array,
  belongs: Uint8Array,
  clusters: number,
): Float64Array[] {
  return Array.from({ length: clusters }, (_, k) => {
    const frames: number[] = []
    belongs.forEach((b, f) => {
      if (b === k) frames.push(f)
    })
    return frames
  })
    .filter((frames) => frames.length >= LEAST_IN_CLUSTER)
    .map((frames) => meanOf(against, frames))
}

function shareOver(rows: readonly Float64Array[]): Float64Array {
  return Float64Array.from({ length: CELLS }, (_, c) =>
    rows.length > 0 ? rows.filter((r) => r[c] > SHOWS_DB).length / rows.length : 0,
  )
}

function meanRow(rows: readonly Float64Array[]): Float64Array {
  return Float64Array.from({ length: CELLS }, (_, c) =>
    rows.length > 0 ? rows.reduce((sum, r) => sum + r[c], 0) / rows.length : 0,
  )
}

/** The larger of what is found a distance below and above; 0 beyond the ends. */
function beside(values: Float64Array, cells: number): Float64Array {
  const near = (c: number) =>
    c < 1 || c >= CELLS - 1 ? 0 : Math.max(values[c - 1], values[c], values[c + 1])
  return Float64Array.from({ length: CELLS }, (_, c) => Math.max(near(c - cells), near(c + cells)))
}

/** What a place has beyond its octaves. */
function exceeding(values: Float64Array): Float64Array {
  const octaves = beside(values, PER_OCTAVE)
  return values.map((v, c) => v - Math.max(0, octaves[c]))
}
