import { seededRandom } from '../audio'
import {
  type DrawnCurve,
  designBand,
  drawnDb,
  firMagnitudeDb,
  minimumPhaseFir,
  sectionsDb,
} from '../filters'
import { kWeightingDb } from '../loudness'
import { convolve, doubleFft } from '../spectrum'
import { fullBand, type Playback } from './description'
import { heardAtDb } from './equal-loudness'

/** What a playback does to both channels, ready to be heard. */
export interface PlaybackResponse {
  /** What the kernels are for: middle and sides, or left and right. */
  readonly basis: 'middle-side' | 'left-right'
  /** Null where the second is silent. */
  readonly kernels: readonly [Float32Array, Float32Array | null]
  /** A noise for each side that repeats without a seam, of 0 LUFS together; null for none. */
  readonly noise: readonly [Float32Array, Float32Array] | null
}

/** Length of what comes directly: its lowest resonances have died away in it. */
const DIRECT_SECONDS = 0.17
const NOISE_SECONDS = 5
const SEED = 226
/** Rounds in which a response with a room in it is brought to its description. */
const ROUNDS = 10
const CORRECTION_TAPS = 4096

/**
 * Magnitude that a description stands for, over frequency, in dB: of a sound that both channels carry alike.
 * @param hereDbSpl level at which the session is listened to.
 */
export function describedDb(
  playback: Playback,
  rateHz: number,
  hereDbSpl: number,
): (hz: number) => number {
  const bands = bandsDb(playback, rateHz, hereDbSpl)
  return (hz) => bands(hz) + 20 * Math.log10(Math.max(1e-9, crossed(playback, hz, 1)))
}

function bandsDb(playback: Playback, rateHz: number, hereDbSpl: number) {
  const sections = playback.bands.flatMap((b) => designBand(fullBand(b), rateHz))
  const { asLoudAs, dbSpl } = playback
  const top = rateHz / 2
  return (hz: number) => {
    const own = sectionsDb(sections, Math.min(hz, 0.999 * top), rateHz)
    // No device passes nothing at all: a floor keeps the design exact where it counts.
    const db = Math.max(-100, own)
    return asLoudAs && dbSpl !== null ? db + heardAtDb(dbSpl, hereDbSpl, hz) : db
  }
}

/** What crosstalk makes of a sound that is alike in both channels (`sign` 1) or turned in one (-1). */
function crossed({ crosstalk }: Playback, hz: number, sign: 1 | -1): number {
  if (!crosstalk) return 1
  const { db, delayMs, highHz } = crosstalk
  const size = 10 ** (db / 20) / Math.sqrt(1 + (hz / highHz) ** 2)
  const angle = -2 * Math.PI * hz * (delayMs / 1000) - Math.atan(hz / highHz)
  return Math.hypot(1 + sign * size * Math.cos(angle), sign * size * Math.sin(angle))
}

/**
 * Makes the impulse responses of a description at a rate: minimum phase, a room's sound behind it. With a room the
 * response is as described in thirds of an octave; without one at every frequency.
 */
export function makePlayback(
  playback: Playback,
  rateHz: number,
  hereDbSpl: number,
): PlaybackResponse {
  const bands = bandsDb(playback, rateHz, hereDbSpl)
  const direct = (sign: 1 | -1, gain: number) => {
    const db = (hz: number) =>
      bands(hz) + 20 * Math.log10(Math.max(1e-9, gain * crossed(playback, hz, sign)))
    const taps = Math.round(DIRECT_SECONDS * rateHz)
    return minimumPhaseFir(db, taps, { kind: 'tapered', share: 0.2 }, rateHz).taps
  }
  const { sides, noise } = playback
  const middle = withRoom(playback, direct(1, 1), rateHz, hereDbSpl)
  const side = sides > 0 ? direct(-1, sides) : null
  return {
    basis: 'middle-side',
    kernels: [middle, side],
    noise: noise && ([0, 1].map((n) => shapedNoise(noise.points, rateHz, SEED + n)) as never),
  }
}

/** A recording of an impulse as a playback: one channel stands for both. As loud as its own energy lets it. */
export function recordedPlayback(channels: readonly Float32Array[]): PlaybackResponse {
  const [left, right = left] = channels
  return { basis: 'left-right', kernels: [left, right], noise: null }
}

/** Adds the sound of a room, and brings the sum to what is described. */
function withRoom(
  playback: Playback,
  direct: Float32Array,
  rateHz: number,
  hereDbSpl: number,
): Float32Array {
  const { room } = playback
  if (!room) return direct
  const frames = Math.round(room.decaySeconds * rateHz)
  const after = Math.round((room.afterMs / 1000) * rateHz)
  const random = seededRandom(SEED)
  const tail = new Float32Array(frames)
  const coefficient = Math.exp((-2 * Math.PI * room.highHz) / rateHz)
  let held = 0
  let power = 0
  for (let i = 0; i < frames; i++) {
    held = coefficient * held + (1 - coefficient) * (2 * random() - 1)
    tail[i] = held * 10 ** ((-3 * i) / frames)
    power += tail[i] ** 2
  }
  const scale = Math.sqrt((energyOf(direct) * 10 ** (room.db / 10)) / power)
  const shaped = convolved(tail, direct)
  const gain = scale / Math.sqrt(energyOf(shaped) / power)
  let out = new Float32Array(after + shaped.length)
  out.set(direct)
  for (let i = 0; i < shaped.length; i++) out[after + i] += gain * shaped[i]
  const wanted = describedDb(playback, rateHz, hereDbSpl)
  for (let round = 0; round < ROUNDS; round++) {
    const away = thirdsOf(out, rateHz).map(({ hz, db, fromHz, toHz }) => ({
      hz,
      db: Math.max(-20, Math.min(20, meanDb(wanted, fromHz, toHz) - db)),
    }))
    const correction = minimumPhaseFir(
      straight(away),
      CORRECTION_TAPS,
      { kind: 'tapered', share: 0.5 },
      rateHz,
    )
    out = convolved(out, correction.taps).slice(0, out.length)
  }
  return out
}

const energyOf = (taps: Float32Array) => taps.reduce((sum, v) => sum + v * v, 0)

/** Thirds of an octave that are told of a response. */
const THIRDS = Array.from({ length: 30 }, (_, i) => 1000 * 2 ** ((i - 17) / 3))

/** Mean power of a response in thirds of an octave from 20 Hz to 16 kHz, in dB. */
export function thirdsOf(taps: Float32Array, rateHz: number) {
  const size = 2 ** Math.ceil(Math.log2(Math.max(2 * taps.length, rateHz)))
  const db = firMagnitudeDb(taps, size)
  return THIRDS.filter((hz) => hz * 2 ** (1 / 6) < rateHz / 2).map((hz) => {
    const [fromHz, toHz] = [hz * 2 ** (-1 / 6), hz * 2 ** (1 / 6)]
    const [from, to] = [fromHz, toHz].map((f) => (f * size) / rateHz)
    let [sum, count] = [0, 0]
    for (let k = Math.ceil(from); k <= to; k++) {
      sum += 10 ** (db[k] / 10)
      count++
    }
    return { hz, fromHz, toHz, db: 10 * Math.log10(Math.max(1e-12, sum / Math.max(1, count))) }
  })
}

/** What a playback does to a sound that both channels carry alike, in thirds of an octave. */
export function responsePoints({ kernels: [first] }: PlaybackResponse, rateHz: number) {
  return thirdsOf(first, rateHz).map(({ hz, db }) => ({ hz, db }))
}

/** Straight over the logarithm of frequency, level beyond the ends. */
const straight = (points: DrawnCurve['points']) =>
  drawnDb({ points, joining: 'straight', axis: 'log' })

const READINGS = 16

/** Mean power of a curve between two frequencies, in dB. */
export function meanDb(db: (hz: number) => number, fromHz: number, toHz: number): number {
  let sum = 0
  for (let i = 0; i < READINGS; i++) {
    sum += 10 ** (db(fromHz + ((i + 0.5) / READINGS) * (toHz - fromHz)) / 10)
  }
  return 10 * Math.log10(sum / READINGS)
}

function convolved(a: Float32Array, b: Float32Array): Float32Array {
  return Float32Array.from(convolve(a, b).subarray(0, a.length + b.length - 1))
}

/** Noise of a shape with a seam nowhere: each line of its spectrum at a phase by chance. With its like, 0 LUFS. */
function shapedNoise(
  points: readonly { readonly hz: number; readonly db: number }[],
  rateHz: number,
  seed: number,
): Float32Array {
  const size = 2 ** Math.round(Math.log2(NOISE_SECONDS * rateHz))
  const random = seededRandom(seed)
  const level = straight(points)
  const spectrum = new Float64Array(size + 2)
  let weighted = 0
  for (let k = 1; k < size / 2; k++) {
    const hz = (k * rateHz) / size
    if (hz < 15) continue
    const amplitude = 10 ** (level(hz) / 20)
    const angle = 2 * Math.PI * random()
    spectrum[2 * k] = amplitude * Math.cos(angle)
    spectrum[2 * k + 1] = amplitude * Math.sin(angle)
    // A line of amplitude A in a transform of N is a tone of power 2 (A / N)².
    weighted += 2 * (amplitude / size) ** 2 * 10 ** (kWeightingDb(hz) / 10)
  }
  // Two of them make -0.691 dB + the sum of their powers (BS.1770).
  const gain = Math.sqrt(10 ** 0.0691 / (2 * weighted))
  return Float32Array.from(doubleFft(size).inverse(spectrum), (v) => gain * v)
}
