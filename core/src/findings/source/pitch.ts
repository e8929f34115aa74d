import { realFft } from '../../spectrum'

/** The lowest fundamental of a sound. */
export interface LowestNote {
  /** In Hz; `null` where there is no pitch to be followed. */
  readonly hz: number | null
  /** Whether it has the harmonics of a note; what only repeats, as a chord does, has not. */
  readonly isNote: boolean
  /** Share of the sounding frames that repeat clearly, 0 to 1. */
  readonly pitchedShare: number
  /** The pitch of each frame in turn, in Hz; 0 where a frame is silent or has no clear one. */
  readonly track: Float32Array
}

const LOWEST_HZ = 28
const HIGHEST_HZ = 1000
/** A period is clear when this much of the power repeats after it. */
const CLEAR = 0.7
/** The shortest period counts that comes this near to the best. */
const NEARLY_BEST = 0.9
/** Frames that are softer than the loudest by more than this do not count, in dB. */
const SOUNDING_DB = 30
/** Lower than this share of all pitched frames is taken for errors. */
const LOWEST_SHARE = 0.05
const LEAST_PITCHED = 0.25
/** A pitch is held that moves by less than this from frame to frame, as a ratio: half a semitone. */
const HELD = 0.03
/** Rumble and hum below this do not take part in following the pitch. */
const FROM_HZ = 45
/** Speech glides: its frames are short. Low notes need longer ones. */
const SHORT_SECONDS = 0.085
const LONG_SECONDS = 0.17
const HOP_SECONDS = 0.021
/** Short frames tell pitches from here on, long ones up to there. */
const SHORT_FROM_HZ = 50
const LONG_TO_HZ = 80
/** A harmonic is there that stands no further under the strongest one, in dB. */
const HARMONIC_DB = 30

interface PitchFrame {
  readonly power: number
  /** After which it repeats; null where it does not. */
  readonly hz: number | null
  /** Whether it has the harmonics of a note: two notes at once repeat, and have not. */
  readonly isNote: boolean
}

/**
 * Follows the pitch by autocorrelation (the transform of the power spectrum), frame by frame, and keeps
 * how often each pitch occurred. What repeats without the harmonics of a note is none: two notes at once do.
 */
export class PitchProfile {
  readonly #rateHz: number
  readonly #short: PitchWindow
  readonly #long: PitchWindow
  readonly #frames: PitchFrame[] = []

  constructor(rateHz: number) {
    this.#rateHz = rateHz
    this.#short = new PitchWindow(rateHz, SHORT_SECONDS)
    this.#long = new PitchWindow(rateHz, LONG_SECONDS)
  }

  /** Takes a stretch of sound at the given rate. */
  add(signal: Float32Array): void {
    const hop = Math.round(HOP_SECONDS * this.#rateHz)
    for (let middle = 0; middle < signal.length; middle += hop) {
      const power = this.#short.take(signal, middle)
      const period = power > 1e-10 ? this.#period(signal, middle) : null
      this.#frames.push({ power, hz: period?.hz ?? null, isNote: period?.isNote ?? false })
    }
  }

  #period(signal: Float32Array, middle: number): Period | null {
    const short = this.#short.period(SHORT_FROM_HZ, HIGHEST_HZ)
    if (short?.isNote) return short
    this.#long.take(signal, middle)
    const long = this.#long.period(LOWEST_HZ, LONG_TO_HZ)
    return long?.isNote ? long : (short ?? long)
  }

  lowest(): LowestNote {
    const loudest = this.#frames.reduce((most, f) => Math.max(most, f.power), 0)
    const sounding = this.#frames.filter((f) => f.power > loudest * 10 ** (-SOUNDING_DB / 10))
    const shareOf = (frames: readonly PitchFrame[]) =>
      sounding.length > 0 ? frames.length / sounding.length : 0
    const pitchedShare = shareOf(sounding.filter((f) => f.hz !== null))
    // Of chords alone there is nothing better than what they repeat with.
    const notes = sounding.filter((f) => f.isNote)
    const isNote = shareOf(notes) >= LEAST_PITCHED
    const counted = isNote ? notes : sounding
    // Where one note gives way to another, a frame of both repeats with a period of neither.
    const held = this.#held(counted).sort((a, b) => a - b)
    const hz =
      pitchedShare >= LEAST_PITCHED ? (held[Math.floor(LOWEST_SHARE * held.length)] ?? null) : null
    const counts = new Set(counted)
    const track = Float32Array.from(this.#frames, (f) => (counts.has(f) ? (f.hz ?? 0) : 0))
    return { hz, isNote, pitchedShare, track }
  }

  /** Pitches that are the same in the frame before or after. */
  #held(counted: readonly PitchFrame[]): number[] {
    const isNear = (a: number, b: PitchFrame | undefined) =>
      b !== undefined && b.hz !== null && Math.abs(Math.log(a / b.hz)) < HELD
    const counts = new Set(counted)
    return this.#frames.flatMap((frame, i) =>
      frame.hz !== null &&
      counts.has(frame) &&
      (isNear(frame.hz, this.#frames[i - 1]) || isNear(frame.hz, this.#frames[i + 1]))
        ? [frame.hz]
        : [],
    )
  }
}

interface Period {
  readonly hz: number
  readonly isNote: boolean
}

/** One length of frame: its spectrum and its autocorrelation. */
class PitchWindow {
  readonly #rateHz: number
  /** Of the transform: the frame fills its first half, so that lags do not wrap. */
  readonly #size: number
  readonly #window: Float32Array
  readonly #padded: Float32Array
  readonly #spectrum: Float32Array
  readonly #correlation: Float32Array
  /** Autocorrelation of the window alone, by which the signal's is divided. */
  readonly #ofWindow: Float32Array

  constructor(rateHz: number, seconds: number) {
    const frame = 2 ** Math.round(Math.log2(seconds * rateHz))
    this.#rateHz = rateHz
    this.#size = 2 * frame
    this.#window = Float32Array.from(
      { length: frame },
      (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / frame),
    )
    this.#padded = new Float32Array(this.#size)
    this.#spectrum = new Float32Array(this.#size + 2)
    this.#correlation = new Float32Array(this.#size)
    this.#ofWindow = windowCorrelation(frame)
  }

  /** Takes the frame about a place in a signal. @returns its power above the rumble. */
  take(signal: Float32Array, middle: number): number {
    const frame = this.#window.length
    const from = middle - frame / 2
    const [begin, end] = [Math.max(0, from), Math.min(signal.length, from + frame)]
    this.#padded.fill(0)
    for (let i = begin; i < end; i++) this.#padded[i - from] = this.#window[i - from] * signal[i]
    realFft(this.#size).forward(this.#padded, this.#spectrum)
    const first = Math.ceil((FROM_HZ * this.#size) / this.#rateHz)
    return intoPowers(this.#spectrum, first) / frame ** 2
  }

  /** What the frame that was taken last repeats with, within a range; null where that is not clear. */
  period(lowestHz: number, highestHz: number): Period | null {
    const power = this.#spectrum.slice()
    realFft(this.#size).inverse(this.#spectrum, this.#correlation)
    const r = this.#correlation
    const shortest = Math.floor(this.#rateHz / highestHz)
    const longest = Math.min(this.#ofWindow.length - 2, Math.ceil(this.#rateHz / lowestHz))
    const at = (lag: number) => r[lag] / (r[0] * this.#ofWindow[lag])
    const peaks: { lag: number; height: number }[] = []
    for (let lag = shortest; lag <= longest; lag++) {
      if (r[lag] <= r[lag - 1] || r[lag] < r[lag + 1]) continue
      const [a, b, c] = [at(lag - 1), at(lag), at(lag + 1)]
      const by = (0.5 * (a - c)) / (a - 2 * b + c)
      peaks.push({ lag: lag + by, height: b - 0.25 * (a - c) * by })
    }
    const best = peaks.reduce((most, p) => Math.max(most, p.height), 0)
    const first = peaks.find((p) => p.height >= NEARLY_BEST * best)
    if (best < CLEAR || !first) return null
    const hz = this.#rateHz / first.lag
    return { hz, isNote: this.#isNote(power, hz) }
  }

  /**
   * Whether a note of this pitch sounds: its first harmonic, or, where a small microphone or an instrument lacks that,
   * the second and third with the fifth or seventh. Two notes that repeat together have neither.
   */
  #isNote(power: Float32Array, hz: number): boolean {
    let most = 0
    for (let i = 0; i < power.length; i += 2) most = Math.max(most, power[i])
    const least = most * 10 ** (-HARMONIC_DB / 10)
    const has = (k: number) => {
      const at = (k * hz * this.#size) / this.#rateHz
      let height = 0
      for (let bin = Math.round(0.97 * at); bin <= Math.round(1.03 * at); bin++) {
        height = Math.max(height, power[2 * bin] ?? 0)
      }
      return height > least
    }
    return has(1) || (has(2) && has(3) && (has(5) || has(7)))
  }
}

/** Turns a spectrum into its powers, from a bin on; below it there is nothing. @returns their sum. */
function intoPowers(spectrum: Float32Array, first: number): number {
  let sum = 0
  spectrum.fill(0, 0, 2 * first)
  for (let at = 2 * first; at < spectrum.length; at += 2) {
    const re = spectrum[at]
    const im = spectrum[at + 1]
    const power = re * re + im * im
    spectrum[at] = power
    spectrum[at + 1] = 0
    sum += power
  }
  return sum
}

/** Autocorrelation of a Hann window of a size, 1 at lag 0. */
function windowCorrelation(size: number): Float32Array {
  const out = new Float32Array(size / 2)
  const w = Float64Array.from(
    { length: size },
    (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / size),
  )
  const full = w.reduce((sum, v) => sum + v * v, 0)
  for (let lag = 0; lag < out.length; lag++) {
    // The closed form of a Hann window's autocorrelation.
    const x = lag / size
    const c = Math.cos(2 * Math.PI * x)
    const s = Math.sin(2 * Math.PI * x) / (2 * Math.PI)
    out[lag] = (((1 - x) * (2 / 3 + c / 3) + s) * (size * 0.375)) / full
  }
  return out
}
