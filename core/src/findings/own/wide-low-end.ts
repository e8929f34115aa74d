import { FILTER_COUNT, FILTER_HZ, type HearingBands } from '../../hearing'
import type { LowEndSource } from '../../treatments'
import { leanBelow } from '../measure'
import type { SourceReading } from '../source/source-reading'

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
  /** Where the sides are to be taken away, and what the mono low end is made of. */
  readonly hz: number
  readonly from: LowEndSource
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
export function findWideLowEnd(
  hearing: HearingBands,
  heard: SourceReading['heard'],
): WideLowEnd | null {
  const mid = new Float64Array(FILTER_COUNT)
  const side = new Float64Array(FILTER_COUNT)
  let [whole, low] = [0, 0]
  for (let i = 0; i < hearing.mid.length; i++) {
    const b = i % FILTER_COUNT
    mid[b] += hearing.mid[i]
    side[b] += hearing.side[i]
    whole += hearing.mid[i] + hearing.side[i]
    if (FILTER_HZ[b] < HIGHEST_HZ.low) low += hearing.mid[i] + hearing.side[i]
  }
  if (whole <= 0) return null
  const highest = HIGHEST_HZ[low > LOW_SHARE * whole ? 'low' : 'other']
  const wide: WideBand[] = []
  for (let b = 0; b < FILTER_COUNT && FILTER_HZ[b] < highest; b++) {
    if (FILTER_HZ[b] < LOWEST_HZ) continue
    const power = mid[b] + side[b]
    if (power >= 1e-4 * whole && side[b] >= LEAST_SIDE_SHARE * power) {
      wide.push({ band: b, power, apart: side[b] })
    }
  }
  const losing = losingBelow(wide)
  const bands = sumOf(losing).power >= LEAST_POWER_SHARE * whole ? losing : wide
  const { power, apart } = sumOf(bands)
  if (power < LEAST_POWER_SHARE * whole) return null
  const [first, last] = [bands[0].band, bands[bands.length - 1].band]
  const correlations = correlationsBetween(hearing, first, last)
  const lowest = correlations[Math.floor(0.1 * correlations.length)] ?? 1
  const highestSeen = correlations[Math.floor(0.9 * correlations.length)] ?? 1
  const wanders = lowest < 0 && highestSeen - lowest > LEAST_WANDER
  if (lossDb({ power, apart }) < LEAST_LOSS_DB && !wanders) return null
  return {
    fromHz: FILTER_HZ[first],
    belowHz: FILTER_HZ[last],
    sideShare: apart / power,
    monoLossDb: lossDb({ power, apart }),
    lowestCorrelation: lowest,
    highestCorrelation: highestSeen,
    hz: Math.round(FILTER_HZ[last] * 1.15),
    from: sourceOf(apart / power, middleShare(mid, side, last), leanBelow(heard, FILTER_HZ[last])),
  }
}

/** From this share in the sides on left and right take more from each other than they add: one of them is enough. */
const CANCELLING_SIDE_SHARE = 0.6
/** Where the middle has no more of the low end than this, nothing is lost when one side is turned. */
const MOST_IN_MIDDLE = 0.03
/** The filter's slope reaches so far beyond the low end that is told, as a ratio. */
const SLOPE_REACH = 1.6

/** What a low end is best made mono of. @param lean by how much left is the stronger side. */
function sourceOf(sideShare: number, inMiddle: number, lean: number): LowEndSource {
  if (sideShare < CANCELLING_SIDE_SHARE) return 'both'
  if (inMiddle <= MOST_IN_MIDDLE) return 'turned'
  return lean >= 0 ? 'left' : 'right'
}

/** What of the power in and just above a low end lies in the middle. */
function middleShare(mid: Float64Array, side: Float64Array, last: number): number {
  let [middle, both] = [0, 1e-20]
  for (let b = 0; b < FILTER_COUNT && FILTER_HZ[b] <= SLOPE_REACH * FILTER_HZ[last]; b++) {
    middle += mid[b]
    both += mid[b] + side[b]
  }
  return middle / both
}

interface Parts {
  readonly power: number
  /** What of the power lies in the sides. */
  readonly apart: number
}

interface WideBand extends Parts {
  readonly band: number
}

const sumOf = (bands: readonly WideBand[]): Parts =>
  bands.reduce((sum, b) => ({ power: sum.power + b.power, apart: sum.apart + b.apart }), {
    power: 0,
    apart: 0,
  })

/** Against a low end that is all middle: what the mono sum lacks. */
const lossDb = ({ power, apart }: Parts) =>
  -10 * Math.log10(Math.max(1e-6, (power - apart) / power))

/**
 * The bands from the lowest up, as far as they lose as a whole what counts as a loss: a low end whose depth
 * lies in the sides is one, also where its body lies in the middle.
 */
function losingBelow(bands: readonly WideBand[]): readonly WideBand[] {
  let count = bands.length
  while (count > 0 && lossDb(sumOf(bands.slice(0, count))) < LEAST_LOSS_DB) count--
  return bands.slice(0, count)
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
