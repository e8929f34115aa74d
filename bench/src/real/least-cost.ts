import type { Clip } from '@sober-prism/core/audio'
import {
  cochlearGains,
  DEFAULT_CALIBRATION,
  excitation,
  FILTER_COUNT,
  FILTER_HZ,
  heardMoments,
  inNoiseAt,
  inQuietAt,
  maskedThreshold,
  midAndSide,
  planMoments,
} from '@sober-prism/core/hearing'
import { ERB_STEP } from '../../../core/src/hearing/excitation'

/** Excitation of a key, of what yields to it, and of what is left of that: `moments × FILTER_COUNT` each. */
interface Passage {
  readonly key: Float64Array
  readonly own: Float64Array
  readonly left: Float64Array
  readonly stepMs: number
}

/** What the same gain in the key costs at least, as a part of what it cost. */
export interface LeastCost {
  /** With any gain at any moment in any auditory filter. */
  readonly anyGain: number
  /** With gains that are alike over one ERB and take {@link TIME_MS} to come and to go. */
  readonly realGain: number
}

/** Longer passages tell no more. */
const SECONDS = 12
const TIME_MS = 15
const DEPTHS_DB = [0.5, 1, 1.5, 2, 3, 4, 5, 6]
const HALVINGS = 10
const MOST_PRICE = 8

/**
 * What a processor that knew all would take for a key's sake to win as much as `made` has won: in each auditory filter,
 * at each moment, the depth that wins most specific loudness for what is lost at one price for all (which is the
 * optimum: Everett 1963), the price such that both win alike. With one ear, as sums over all moments.
 */
export function leastCost(
  key: Clip,
  yielding: Clip,
  made: Clip,
  span: [number, number],
): LeastCost {
  const passage = passageOf(key, yielding, made)
  const { own, left } = passage
  const before = outcome(passage, own)
  const now = outcome(passage, left)
  const cost = (shape: (depths: Float64Array) => Float64Array) => {
    let [low, high] = [0, MOST_PRICE]
    let lost = 0
    for (let n = 0; n < HALVINGS; n++) {
      const price = (low + high) / 2
      const depths = shape(bestDepths(passage, price, span))
      const then = outcome(
        passage,
        own.map((e, i) => e * 10 ** (-depths[i] / 10)),
      )
      lost = before.own - then.own
      if (then.key > now.key) low = price
      else high = price
    }
    return lost / (before.own - now.own)
  }
  return { anyGain: cost((d) => d), realGain: cost((d) => inTime(overOneErb(d), passage.stepMs)) }
}

function passageOf(...clips: [Clip, Clip, Clip]): Passage {
  const rate = clips[0].sampleRateHz
  const moments = planMoments(rate, Math.min(clips[0].frames, SECONDS * rate), [], Infinity)
  const [key, own, left] = clips.map(({ channels }) => {
    const { mid, side } = heardMoments(midAndSide(channels), rate, moments)
    const out = new Float64Array(mid.length)
    for (let row = 0; row < mid.length; row += FILTER_COUNT) {
      const powers = cochlea.map((gain, b) => gain * (mid[row + b] + (side?.[row + b] ?? 0)))
      excitation(powers, out.subarray(row, row + FILTER_COUNT))
    }
    return out
  })
  return { key, own, left, stepMs: 1000 * moments.seconds[0] }
}

const cochlea = cochlearGains(DEFAULT_CALIBRATION)

/** Loudness of the key beside what is left of a sound, and that sound's own, summed over moments and filters. */
function outcome({ key }: Passage, left: Float64Array): { key: number; own: number } {
  const sum = { key: 0, own: 0 }
  for (let i = 0; i < key.length; i++) {
    const b = i % FILTER_COUNT
    sum.key += heardBeside(b, key[i], left[i])
    sum.own += inQuietAt(b, left[i])
  }
  return sum
}

const heardBeside = (b: number, key: number, noise: number) =>
  key > 0 ? Math.min(inQuietAt(b, key), inNoiseAt(b, key, noise)) : 0

function bestDepths({ key, own }: Passage, price: number, [fromHz, toHz]: [number, number]) {
  const depths = new Float64Array(key.length)
  for (let i = 0; i < key.length; i++) {
    const b = i % FILTER_COUNT
    if (FILTER_HZ[b] < fromHz || FILTER_HZ[b] > toHz || key[i] < maskedThreshold(0, b)) continue
    const [heard, whole] = [heardBeside(b, key[i], own[i]), inQuietAt(b, own[i])]
    let most = 0
    for (const db of DEPTHS_DB) {
      const less = own[i] * 10 ** (-db / 10)
      const worth = heardBeside(b, key[i], less) - heard - price * (whole - inQuietAt(b, less))
      if (worth <= most) continue
      most = worth
      depths[i] = db
    }
  }
  return depths
}

function overOneErb(depths: Float64Array): Float64Array {
  const reach = Math.round(0.5 / ERB_STEP)
  return depths.map((_, i) => {
    const [b, row] = [i % FILTER_COUNT, i - (i % FILTER_COUNT)]
    const [from, to] = [Math.max(0, b - reach), Math.min(FILTER_COUNT - 1, b + reach)]
    let sum = 0
    for (let k = from; k <= to; k++) sum += depths[row + k]
    return sum / (to - from + 1)
  })
}

function inTime(depths: Float64Array, stepMs: number): Float64Array {
  const share = 1 - Math.exp(-stepMs / TIME_MS)
  const out = depths.slice(0)
  for (let i = FILTER_COUNT; i < out.length; i++) {
    out[i] = out[i - FILTER_COUNT] + share * (depths[i] - out[i - FILTER_COUNT])
  }
  return out
}
