import { FILTER_COUNT, FILTER_HZ, type HearingBands } from '../hearing'

/** A low end that lies or wanders at the sides. */
export interface WideLowEnd {
  readonly fromHz: number
  readonly belowHz: number
  /** Share of the power there that lies in the sides. */
  readonly sideShare: number
  /** Correlation of left and right over time, its lowest and highest tenth. */
  readonly lowestCorrelation: number
  readonly highestCorrelation: number
  /** Where the sides are to be taken away. */
  readonly hz: number
}

const HIGHEST_HZ = 400
const LEAST_SIDE_SHARE = 0.12
/** The low end must carry this share of the track's power to matter. */
const LEAST_POWER_SHARE = 0.05

/** Looks for low bands in which the sides carry a good part of the power. */
export function findWideLowEnd(bands: HearingBands): WideLowEnd | null {
  const mid = new Float64Array(FILTER_COUNT)
  const side = new Float64Array(FILTER_COUNT)
  let whole = 0
  for (let i = 0; i < bands.mid.length; i++) {
    mid[i % FILTER_COUNT] += bands.mid[i]
    side[i % FILTER_COUNT] += bands.side[i]
    whole += bands.mid[i] + bands.side[i]
  }
  if (whole <= 0) return null
  let last = -1
  let first = -1
  let power = 0
  for (let b = 0; b < FILTER_COUNT && FILTER_HZ[b] < HIGHEST_HZ; b++) {
    const here = mid[b] + side[b]
    if (here < 1e-4 * whole || side[b] < LEAST_SIDE_SHARE * here) continue
    if (first < 0) first = b
    last = b
    power += here
  }
  if (last < 0 || power < LEAST_POWER_SHARE * whole) return null
  const correlations = correlationsBelow(bands, last)
  const sums = sidesBelow(bands, FILTER_HZ[last] * 1.02)
  if (sums < LEAST_SIDE_SHARE) return null
  return {
    fromHz: FILTER_HZ[first],
    belowHz: FILTER_HZ[last],
    sideShare: sums,
    lowestCorrelation: correlations[Math.floor(0.1 * correlations.length)] ?? 1,
    highestCorrelation: correlations[Math.floor(0.9 * correlations.length)] ?? 1,
    hz: Math.min(1000, Math.round(FILTER_HZ[last] * 1.15)),
  }
}

/** Share of the power below a frequency that lies in the sides, 0 to 1. */
function sidesBelow(bands: HearingBands, hz: number): number {
  let mid = 0
  let side = 0
  for (let i = 0; i < bands.mid.length; i++) {
    if (FILTER_HZ[i % FILTER_COUNT] >= hz) continue
    mid += bands.mid[i]
    side += bands.side[i]
  }
  return mid + side > 0 ? side / (mid + side) : 0
}

/** Correlation per sounding frame, sorted: (M - S)/(M + S), which is that of left and right of equal level. */
function correlationsBelow(bands: HearingBands, last: number): number[] {
  const out: number[] = []
  let loudest = 0
  const frames: [number, number][] = []
  for (let frame = 0; frame < bands.frames; frame++) {
    let mid = 0
    let side = 0
    for (let b = 0; b <= last; b++) {
      mid += bands.mid[frame * FILTER_COUNT + b]
      side += bands.side[frame * FILTER_COUNT + b]
    }
    frames.push([mid, side])
    loudest = Math.max(loudest, mid + side)
  }
  for (const [mid, side] of frames) {
    if (mid + side > 1e-3 * loudest) out.push((mid - side) / (mid + side))
  }
  return out.sort((a, b) => a - b)
}
