import { realFft } from '../spectrum'

/** The lowest fundamental of a sound. */
export interface LowestNote {
  /** In Hz; `null` where there is no pitch to be followed. */
  readonly hz: number | null
  /** Share of the sounding frames that have a clear pitch, 0 to 1. */
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

interface PitchFrame {
  readonly power: number
  readonly hz: number | null
}

/**
 * Follows the pitch by autocorrelation (the transform of the power spectrum), frame by frame, and keeps
 * how often each pitch occurred.
 */
export class PitchProfile {
  readonly #rateHz: number
  readonly #size: number
  readonly #spectrum: Float32Array
  readonly #correlation: Float32Array
  /** Autocorrelation of the window alone, by which the signal's is divided. */
  readonly #window: Float32Array
  readonly #frames: PitchFrame[] = []

  constructor(rateHz: number, size: number) {
    this.#rateHz = rateHz
    this.#size = size
    this.#spectrum = new Float32Array(size + 2)
    this.#correlation = new Float32Array(size)
    this.#window = windowCorrelation(size)
  }

  /** Takes one power spectrum, Hann-windowed, of bins 0 to size/2. */
  add(power: Float64Array): void {
    const first = Math.ceil((FROM_HZ * this.#size) / this.#rateHz)
    this.#spectrum.fill(0)
    let sum = 0
    for (let bin = first; bin < power.length; bin++) {
      this.#spectrum[2 * bin] = power[bin]
      sum += power[bin]
    }
    this.#frames.push({ power: sum, hz: sum > 1e-10 ? this.#pitch() : null })
  }

  lowest(): LowestNote {
    const loudest = this.#frames.reduce((most, f) => Math.max(most, f.power), 0)
    const sounding = this.#frames.filter((f) => f.power > loudest * 10 ** (-SOUNDING_DB / 10))
    const pitched = sounding.filter((f) => f.hz !== null)
    const pitchedShare = sounding.length > 0 ? pitched.length / sounding.length : 0
    // Where one note gives way to another, a frame of both repeats with a period of neither.
    const held = this.#held(sounding).sort((a, b) => a - b)
    const hz =
      pitchedShare >= LEAST_PITCHED ? (held[Math.floor(LOWEST_SHARE * held.length)] ?? null) : null
    const counts = new Set(sounding)
    const track = Float32Array.from(this.#frames, (f) => (counts.has(f) ? (f.hz ?? 0) : 0))
    return { hz, pitchedShare, track }
  }

  /** Pitches that are the same in the frame before or after. */
  #held(sounding: readonly PitchFrame[]): number[] {
    const isNear = (a: number, b: PitchFrame | undefined) =>
      b !== undefined && b.hz !== null && Math.abs(Math.log(a / b.hz)) < HELD
    const counts = new Set(sounding)
    return this.#frames.flatMap((frame, i) =>
      frame.hz !== null &&
      counts.has(frame) &&
      (isNear(frame.hz, this.#frames[i - 1]) || isNear(frame.hz, this.#frames[i + 1]))
        ? [frame.hz]
        : [],
    )
  }

  #pitch(): number | null {
    realFft(this.#size).inverse(this.#spectrum, this.#correlation)
    const r = this.#correlation
    const shortest = Math.floor(this.#rateHz / HIGHEST_HZ)
    const longest = Math.min(this.#size / 2 - 2, Math.ceil(this.#rateHz / LOWEST_HZ))
    const at = (lag: number) => r[lag] / (r[0] * this.#window[lag])
    let best = 0
    for (let lag = shortest; lag <= longest; lag++) {
      if (r[lag] > r[lag - 1] && r[lag] >= r[lag + 1]) best = Math.max(best, at(lag))
    }
    if (best < CLEAR) return null
    for (let lag = shortest; lag <= longest; lag++) {
      if (r[lag] <= r[lag - 1] || r[lag] < r[lag + 1] || at(lag) < NEARLY_BEST * best) continue
      const [a, b, c] = [at(lag - 1), at(lag), at(lag + 1)]
      return this.#rateHz / (lag + (0.5 * (a - c)) / (a - 2 * b + c))
    }
    return null
  }
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
