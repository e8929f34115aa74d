import type { EqBand } from '../../filters'
import {
  bandEdgeHz,
  FILTER_COUNT,
  FILTER_HZ,
  type MaskingSums,
  pairMasking,
  trackMasking,
} from '../../hearing'
import type { Times } from '../finding'

/** A stretch of frequency in which one track takes from another. */
export interface MaskingPlace {
  readonly target: number
  readonly masker: number
  /** First filter and the one after the last. */
  readonly from: number
  readonly to: number
  readonly hz: number
  readonly lostSone: number
  /** Share of the target's loudness there that is lost to all. */
  readonly lostShare: number
  /** The masker's part of what the target loses there. */
  readonly maskerPart: number
  readonly where: 'middle' | 'sides'
  /** Share of the passage in which it happens. */
  readonly timeShare: number
  readonly times: readonly Times[]
}

/** A stretch ends where the loss falls under this part of its peak. */
const EDGE_SHARE = 0.45
/** Widest stretch: 7 ERB; narrowest: 1.5 ERB, in quarter ERBs. */
const WIDEST = 28
const NARROWEST = 6
const MOST_PER_PAIR = 2
/** Slots count in which at least this part of the busiest slot's loss falls. */
const BUSY_SHARE = 0.3
const MOST_TIMES = 3

/** The stretches in which `masker` takes most from `target`, at most two. */
export function maskingPlaces(sums: MaskingSums, target: number, masker: number): MaskingPlace[] {
  const { lost, when } = pairMasking(sums, target, masker)
  const whole = trackMasking(sums, target)
  const left = smooth(lost)
  const places: MaskingPlace[] = []
  for (let n = 0; n < MOST_PER_PAIR; n++) {
    const span = growFromPeak(left)
    if (!span) break
    const [from, to] = span
    const sum = (values: Float64Array) => sumOf(values, from, to)
    places.push({
      target,
      masker,
      from,
      to,
      hz: weightedCentre(lost, from, to),
      lostSone: sum(lost),
      lostShare: sum(whole.lost) / Math.max(1e-12, sum(whole.alone)),
      maskerPart: sum(lost) / Math.max(1e-12, sum(whole.lost)),
      where: sum(whole.lostToSides) > 0.5 * sum(whole.lost) ? 'sides' : 'middle',
      ...busyTimes(when, sums.slotSeconds),
    })
    clearPeak(left, from, to)
  }
  return places
}

/** Takes a stretch out, and what falls away from it to either side: the shoulder of a peak is no place of its own. */
function clearPeak(smoothed: Float64Array, from: number, to: number): void {
  let low = from
  while (low > 0 && smoothed[low - 1] < smoothed[low]) low--
  let high = to
  while (high < FILTER_COUNT && smoothed[high] < smoothed[high - 1]) high++
  smoothed.fill(0, low, high)
}

export function sumOf(values: Float64Array, from: number, to: number): number {
  let sum = 0
  for (let b = from; b < to; b++) sum += values[b]
  return sum
}

/** Mean over one ERB. */
function smooth(values: Float64Array): Float64Array {
  return values.map((_, i) => {
    let sum = 0
    for (let k = i - 2; k <= i + 2; k++) sum += values[k] ?? 0
    return sum / 5
  })
}

function growFromPeak(smoothed: Float64Array): [number, number] | null {
  let peak = 0
  for (let b = 1; b < FILTER_COUNT; b++) if (smoothed[b] > smoothed[peak]) peak = b
  if (smoothed[peak] <= 0) return null
  let from = peak
  let to = peak + 1
  const edge = smoothed[peak] * EDGE_SHARE
  while (to - from < WIDEST) {
    const below = from > 0 ? smoothed[from - 1] : 0
    const above = to < FILTER_COUNT ? smoothed[to] : 0
    if (Math.max(below, above) < edge && to - from >= NARROWEST) break
    if (below === 0 && above === 0) break
    if (below >= above) from--
    else to++
  }
  return [from, to]
}

function weightedCentre(lost: Float64Array, from: number, to: number): number {
  let weight = 0
  let sum = 0
  for (let b = from; b < to; b++) {
    weight += lost[b]
    sum += lost[b] * Math.log(FILTER_HZ[b])
  }
  return weight > 0 ? Math.exp(sum / weight) : Math.sqrt(bandEdgeHz(from) * bandEdgeHz(to))
}

/** When most is lost: the share of busy slots and the longest runs of them. */
function busyTimes(when: Float64Array, seconds: number): Pick<MaskingPlace, 'timeShare' | 'times'> {
  const busiest = when.reduce((a, b) => Math.max(a, b), 0)
  const busy = Array.from(when, (v) => busiest > 0 && v > BUSY_SHARE * busiest)
  const runs: Times[] = []
  for (let from = 0; from < busy.length; from++) {
    if (!busy[from]) continue
    let to = from
    while (to < busy.length && busy[to]) to++
    runs.push({ fromSeconds: from * seconds, toSeconds: to * seconds })
    from = to
  }
  runs.sort((a, b) => b.toSeconds - b.fromSeconds - (a.toSeconds - a.fromSeconds))
  return {
    timeShare: busy.filter(Boolean).length / Math.max(1, busy.length),
    times: runs.slice(0, MOST_TIMES).sort((a, b) => a.fromSeconds - b.fromSeconds),
  }
}

/** Values as an engineer would set them: three figures of frequency, tenths of Q. */
export function roundedBell(hz: number, db: number, q: number): EqBand {
  const step = 10 ** (Math.floor(Math.log10(hz)) - 2)
  return {
    type: 'bell',
    hz: Number((Math.round(hz / step) * step).toFixed(2)),
    db: Math.round(db * 10) / 10,
    q: Math.round(q * 10) / 10,
    slopeDbPerOct: 12,
    channel: 'stereo',
  }
}
