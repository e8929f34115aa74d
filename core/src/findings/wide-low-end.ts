import { FILTER_COUNT, FILTER_HZ, type HearingBands } from '../hearing'

/** A low end that cancels in mono or wanders between the sides. */
export interface WideLowEnd {
  readonly fromHz: number
  readonly belowHz: number
  /** Share of the power there that lies in the sides. */
  readonly sideShare: number
  /** What the low end loses when left and right are summed, in dB, against both at full. */
  readonly monoLossDb: number
  /** Correlation of left and right over time, its lowest and highest tenth. */
  readonly lowestCorrelation: number
  readonly highestCorrelation: number
  /** Where the sides are to be taken away. */
  readonly hz: number
}

/** Only what lies below this matters, higher for a source whose body is down there. */
const HIGHEST_HZ = { other: 125, low: 200 } as const
/** A source is a low one when this share of its power lies below the higher limit. */
const LOW_SHARE = 0.5
/** The low end must carry this share of the track's power to matter: a chorus on a guitar's lowest notes does not. */
const LEAST_POWER_SHARE = 0.12
/** A band counts from this share of its power in the sides, ... */
const LEAST_SIDE_SHARE = 0.12
/** ... and the whole low end when its mono sum loses this much, or it wanders this far. */
const LEAST_LOSS_DB = 1.5
const LEAST_WANDER = 0.5
/** Bands above this one are looked at as one range with those below. */
const LOWEST_HZ = 30

/** Looks for a low end that truly cancels when summed, or moves between the sides. */
export function findWideLowEnd(bands: HearingBands): WideLowEnd | null {
  const mid = new Float64Array(FILTER_COUNT)
  const side = new Float64Array(FILTER_COUNT)
  let [whole, low] = [0, 0]
  for (let i = 0; i < bands.mid.length; i++) {
    const b = i % FILTER_COUNT
    mid[b] += bands.mid[i]
    side[b] += bands.side[i]
    whole += bands.mid[i] + bands.side[i]
    if (FILTER_HZ[b] < HIGHEST_HZ.low) low += bands.mid[i] + bands.side[i]
  }
  if (whole <= 0) return null
  const highest = HIGHEST_HZ[low > LOW_SHARE * whole ? 'low' : 'other']
  let last = -1
  let first = -1
  let [power, apart] = [0, 0]
  for (let b = 0; b < FILTER_COUNT && FILTER_HZ[b] < highest; b++) {
    if (FILTER_HZ[b] < LOWEST_HZ) continue
    const here = mid[b] + side[b]
    if (here < 1e-4 * whole || side[b] < LEAST_SIDE_SHARE * here) continue
    if (first < 0) first = b
    last = b
    power += here
    apart += side[b]
  }
  if (last < 0 || power < LEAST_POWER_SHARE * whole) return null
  const correlations = correlationsBetween(bands, first, last)
  const lowest = correlations[Math.floor(0.1 * correlations.length)] ?? 1
  const highestSeen = correlations[Math.floor(0.9 * correlations.length)] ?? 1
  // Against a low end that is all middle: what of it is left in the mono sum.
  const monoLossDb = -10 * Math.log10(Math.max(1e-6, (power - apart) / power))
  const wanders = lowest < 0 && highestSeen - lowest > LEAST_WANDER
  if (monoLossDb < LEAST_LOSS_DB && !wanders) return null
  if (apart < LEAST_SIDE_SHARE * power) return null
  return {
    fromHz: FILTER_HZ[first],
    belowHz: FILTER_HZ[last],
    sideShare: apart / power,
    monoLossDb,
    lowestCorrelation: lowest,
    highestCorrelation: highestSeen,
    hz: Math.round(FILTER_HZ[last] * 1.15),
  }
}

/** Correlation per sounding frame, sorted: (M - S)/(M + S), which is that of left and right of equal level. */
function correlationsBetween(bands: HearingBands, first: number, last: number): number[] {
  const out: number[] = []
  let loudest = 0
  const frames: [number, number][] = []
  for (let frame = 0; frame < bands.frames; frame++) {
    let [mid, side] = [0, 0]
    for (let b = first; b <= last; b++) {
      mid += bands.mid[frame * FILTER_COUNT + b]
      side += bands.side[frame * FILTER_COUNT + b]
    }
    frames.push([mid, side])
    loudest = Math.max(loudest, mid + side)
  }
  for (const [mid, side] of frames) {
    if (mid + side > 1e-2 * loudest) out.push((mid - side) / (mid + side))
  }
  return out.sort((a, b) => a - b)
}
