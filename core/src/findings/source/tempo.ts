import {
  type Band,
  erbNumberToHz,
  forEachSpectrum,
  hzToErbNumber,
  sumIntoBands,
} from '../../spectrum'

/** How fast a piece goes, as far as its onsets tell. */
export interface Tempo {
  readonly beatsPerMinute: number
  /** How much of what begins does so on the beat, 0 to 1. */
  readonly clarity: number
}

const SIZE_SECONDS = 0.043
const HOPS_IN_SIZE = 4
const [FROM_HZ, TO_HZ] = [60, 10_000]
/** Bands of as many ERB each. */
const BAND_ERB = 1.5
/** Changes of what is softer than the band's loudest by more than this are none, in dB. */
const RANGE_DB = 50
/** What begins is told from the level of so long before and after, in seconds. */
const MEAN_SECONDS = 0.8

const [SLOWEST, FASTEST] = [40, 220]
/** Steps of the search, as a ratio. */
const COARSE = 1.005
const FINE = 1.0002
const FINE_SPAN = 0.012
/** Beats over which onsets are compared: few to find the tempo, many to tell it exactly. */
const BEATS = 8
const MANY_BEATS = 32
/** Where tempos are perceived most readily, and how far about it in octaves (Moelants 2002; van Noorden and Moelants 1999). */
const USUAL = 118
const USUAL_OCTAVES = 0.85
const HALVED_WEIGHT = 1
/** Less clear than this is told of nothing. */
const LEAST_CLARITY = 0.12

/**
 * The tempo of a stretch of sound: onsets from the rise of log power in bands (spectral flux), compared with themselves
 * at whole numbers of beats; of tempos in simple proportion the one that is perceived most readily.
 * @param signal one channel. @returns null where nothing recurs evenly.
 */
export function estimateTempo(signal: Float32Array, rateHz: number): Tempo | null {
  const { onsets, perSecond } = onsetsOf(signal, rateHz)
  const longest = Math.min(
    Math.floor(onsets.length / 2),
    Math.ceil((MANY_BEATS * 60 * perSecond) / SLOWEST),
  )
  const alike = likeness(onsets, longest)
  const lagOf = (tempo: number) => (60 * perSecond) / tempo
  const score = (tempo: number, beats: number) => {
    const lag = lagOf(tempo)
    let sum = 0
    let count = 0
    for (let k = 1; k <= beats && k * lag < longest - 1; k++) {
      sum += between(alike, k * lag)
      count++
    }
    return count > 0 ? sum / count : 0
  }
  const usual = (tempo: number) => Math.exp(-0.5 * (Math.log2(tempo / USUAL) / USUAL_OCTAVES) ** 2)
  // A beat is halved in most music, and three of its halves are no beat.
  const best = highest(SLOWEST, FASTEST, COARSE, (tempo) => {
    const halved = Math.max(0, score(2 * tempo, 2 * BEATS))
    return usual(tempo) * (score(tempo, BEATS) + HALVED_WEIGHT * halved)
  })
  const exact = highest(best * (1 - FINE_SPAN), best * (1 + FINE_SPAN), FINE, (tempo) =>
    score(tempo, MANY_BEATS),
  )
  const clarity = score(exact, BEATS)
  return clarity < LEAST_CLARITY ? null : { beatsPerMinute: exact, clarity }
}

/** How strongly something begins at each moment; its mean is 0. */
function onsetsOf(signal: Float32Array, rateHz: number) {
  const size = 2 ** Math.round(Math.log2(SIZE_SECONDS * rateHz))
  const hop = size / HOPS_IN_SIZE
  const bands = onsetBands(Math.min(TO_HZ, 0.45 * rateHz))
  const frames: Float64Array[] = []
  forEachSpectrum(signal, { size, hop, window: 'hann' }, (power) => {
    frames.push(sumIntoBands(power, rateHz / size, bands))
  })
  const floors = bands.map((_, b) => {
    const loudest = frames.reduce((most, f) => Math.max(most, f[b]), 1e-12)
    return loudest * 10 ** (-RANGE_DB / 10)
  })
  const onsets = new Float64Array(frames.length)
  for (let i = 1; i < frames.length; i++) {
    for (let b = 0; b < bands.length; b++) {
      const rise = Math.log((frames[i][b] + floors[b]) / (frames[i - 1][b] + floors[b]))
      if (rise > 0) onsets[i] += rise
    }
  }
  const perSecond = rateHz / hop
  return { onsets: overMean(onsets, Math.round(MEAN_SECONDS * perSecond)), perSecond }
}

function onsetBands(toHz: number): Band[] {
  const [from, to] = [hzToErbNumber(FROM_HZ), hzToErbNumber(toHz)]
  const count = Math.round((to - from) / BAND_ERB)
  const edge = (i: number) => erbNumberToHz(from + (i * (to - from)) / count)
  return Array.from({ length: count }, (_, i) => ({
    hz: Math.sqrt(edge(i) * edge(i + 1)),
    fromHz: edge(i),
    toHz: edge(i + 1),
  }))
}

/** What stands over the mean of its surroundings, with a mean of 0. */
function overMean(values: Float64Array, reach: number): Float64Array {
  const sums = new Float64Array(values.length + 1)
  values.forEach((v, i) => {
    sums[i + 1] = sums[i] + v
  })
  const over = values.map((v, i) => {
    const [from, to] = [Math.max(0, i - reach), Math.min(values.length, i + reach + 1)]
    return Math.max(0, v - (sums[to] - sums[from]) / (to - from))
  })
  const mean = over.reduce((sum, v) => sum + v, 0) / Math.max(1, over.length)
  return over.map((v) => v - mean)
}

/** How alike the onsets are to themselves so many steps later, 1 at none; as many steps as are compared count. */
function likeness(onsets: Float64Array, longest: number): Float64Array {
  const out = new Float64Array(longest + 1)
  const own = onsets.reduce((sum, v) => sum + v * v, 1e-30) / onsets.length
  for (let lag = 0; lag <= longest; lag++) {
    let sum = 0
    for (let i = lag; i < onsets.length; i++) sum += onsets[i] * onsets[i - lag]
    out[lag] = sum / (onsets.length - lag) / own
  }
  return out
}

function between(values: Float64Array, at: number): number {
  const i = Math.floor(at)
  return values[i] + (at - i) * (values[i + 1] - values[i])
}

/** The place of the highest value between two places, in steps of a ratio. */
function highest(from: number, to: number, ratio: number, of: (at: number) => number): number {
  let best = from
  let most = Number.NEGATIVE_INFINITY
  for (let at = from; at <= to; at *= ratio) {
    const value = of(at)
    if (value > most) {
      most = value
      best = at
    }
  }
  return best
}
