import { seededRandom } from '../audio'

/** Moments of a passage at which all tracks are listened to. */
export interface Moments {
  /** Their middles, in frames of audio from the start of the passage, rising. */
  readonly at: Int32Array
  /** Time for which each stands, in seconds; together about the length of the passage. */
  readonly seconds: Float64Array
  /** Whether every moment is taken. */
  readonly isDense: boolean
}

/** How strong a sound is over time: its largest amplitude in each stretch of `hop` frames. */
export interface Activity {
  readonly levels: ArrayLike<number>
  readonly hop: number
  /** Where the first stretch begins, in frames from the start of the passage. */
  readonly offset: number
}

/** Moments lie this far apart where all of them are taken. */
const HOP_SECONDS = 0.00533
/** Passages with more moments than this are sampled, at about this many of them; at fewer where tracks are many. */
const MOST_MOMENTS = 560
const LEAST_MOMENTS = 280
const MANY_TRACKS = 24

function mostMoments(tracks: number): number {
  return Math.max(LEAST_MOMENTS, Math.min(MOST_MOMENTS, (MOST_MOMENTS * MANY_TRACKS) / tracks))
}
/** What is this far under a track's peak does not count as sounding, as an amplitude: -60 dB. */
const LEAST_LEVEL = 1e-3
/** Loudness grows about with this power of the amplitude. */
const LOUDNESS_POWER = 0.6
/** A moment hears this far to either side. */
const REACH_SECONDS = 0.043
/** Part of the sampling that goes evenly over the passage, whatever sounds. */
const EVEN_SHARE = 0.15
const SEED = 1907

/** Frames from one moment to the next where all are taken: a power of two. */
function momentHop(sampleRateHz: number): number {
  return 2 ** Math.round(Math.log2(sampleRateHz * HOP_SECONDS))
}

/**
 * Chooses the moments of a passage: all of a short one; of a longer one a sample, drawn stratum by stratum with jitter
 * so that it locks to no tempo, and denser where a track sounds that seldom does. The chance of a moment is proportional
 * to the root of the sum of squares of the tracks' loudness there, each in parts of its own: the allocation of least
 * variance for all tracks' means together (Neyman 1934). What a moment stands for is one over its chance.
 * @param length of the passage in frames.
 * @param activities of the tracks; without any, all of the passage counts alike.
 */
export function planMoments(
  sampleRateHz: number,
  length: number,
  activities: readonly Activity[],
  most = mostMoments(activities.length),
): Moments {
  const hop = momentHop(sampleRateHz)
  const all = Math.max(1, Math.ceil(length / hop))
  const hopSeconds = hop / sampleRateHz
  if (all <= most) {
    return {
      at: Int32Array.from({ length: all }, (_, i) => i * hop + hop / 2),
      seconds: new Float64Array(all).fill(hopSeconds),
      isDense: true,
    }
  }
  const chosen = sampleMoments(weightsOf(sampleRateHz, all, hop, activities), most)
  return {
    at: Int32Array.from(chosen, ([i]) => i * hop + hop / 2),
    seconds: Float64Array.from(chosen, ([, factor]) => factor * hopSeconds),
    isDense: false,
  }
}

/**
 * Draws about `most` of things that matter by `weights`, stratified with jitter.
 * @returns the index of each, rising, and for how many of its kind it stands: one over its chance.
 */
export function sampleMoments(weights: Float64Array, most: number): [number, number][] {
  const chances = chancesOf(weights, most)
  return draw(chances).map(([i, times]) => [i, times / chances[i]])
}

/** How much each moment matters. */
function weightsOf(
  sampleRateHz: number,
  all: number,
  hop: number,
  activities: readonly Activity[],
): Float64Array {
  const squares = new Float64Array(all)
  const reach = Math.round((REACH_SECONDS * sampleRateHz) / hop)
  for (const activity of activities) {
    const loudness = loudnessOf(activity, all, hop)
    let sum = 0
    for (const v of loudness) sum += v
    if (sum <= 0) continue
    for (let i = 0; i < all; i++) {
      let most = 0
      for (let k = Math.max(0, i - reach); k <= Math.min(all - 1, i + reach); k++) {
        if (loudness[k] > most) most = loudness[k]
      }
      squares[i] += (most / sum) ** 2
    }
  }
  const weights = squares.map(Math.sqrt)
  let sum = 0
  for (const w of weights) sum += w
  const even = sum > 0 ? (EVEN_SHARE * sum) / all : 1
  return weights.map((w) => w + even)
}

function loudnessOf({ levels, hop: stretch, offset }: Activity, all: number, hop: number) {
  let peak = 0
  for (let i = 0; i < levels.length; i++) if (levels[i] > peak) peak = levels[i]
  const out = new Float64Array(all)
  for (let i = 0; i < all; i++) {
    const level = levels[Math.floor((i * hop + hop / 2 - offset) / stretch)] ?? 0
    if (level > LEAST_LEVEL * peak) out[i] = level ** LOUDNESS_POWER
  }
  return out
}

/** Chances, at most 1, proportional to weights and together `most`. */
function chancesOf(weights: Float64Array, most: number): Float64Array {
  const chances = new Float64Array(weights.length)
  let factor = 0
  const sure = new Uint8Array(weights.length)
  for (let round = 0; round < 30; round++) {
    let [left, sum] = [most, 0]
    weights.forEach((w, i) => {
      if (sure[i]) left--
      else sum += w
    })
    factor = sum > 0 ? Math.max(0, left) / sum : 0
    let grew = false
    weights.forEach((w, i) => {
      if (!sure[i] && w * factor >= 1) {
        sure[i] = 1
        grew = true
      }
    })
    if (!grew) break
  }
  for (let i = 0; i < chances.length; i++) chances[i] = sure[i] ? 1 : weights[i] * factor
  return chances
}

/** Draws moments: those that are sure, and one of each stratum of the others' chances. With how often each was drawn. */
function draw(chances: Float64Array): [number, number][] {
  const random = seededRandom(SEED)
  const times = new Map<number, number>()
  let sum = 0
  let next = random()
  let stratum = 0
  chances.forEach((chance, i) => {
    if (chance >= 1) {
      times.set(i, 1)
      return
    }
    sum += chance
    while (sum > stratum + next) {
      times.set(i, (times.get(i) ?? 0) + 1)
      stratum++
      next = random()
    }
  })
  return [...times].sort(([a], [b]) => a - b)
}

const CLIP_STRETCH = 1024

/** The activity of signals from the start of a passage. */
export function activityOf(channels: readonly Float32Array[]): Activity {
  const length = channels.reduce((most, c) => Math.max(most, c.length), 0)
  const levels = new Float32Array(Math.ceil(length / CLIP_STRETCH))
  for (const channel of channels) {
    for (let i = 0; i < channel.length; i++) {
      const level = Math.abs(channel[i])
      const at = (i / CLIP_STRETCH) | 0
      if (level > levels[at]) levels[at] = level
    }
  }
  return { levels, hop: CLIP_STRETCH, offset: 0 }
}
