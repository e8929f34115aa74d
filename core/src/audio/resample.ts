import { type Clip, makeClip } from './clip'

/** Zero crossings of the sinc on each side: gives a 1.6 kHz wide transition at 44.1 kHz. */
const HALF_LENGTH = 96
/** Kaiser window shape for about 120 dB of stop-band attenuation (Kaiser 1974). */
const KAISER_BETA = 12
const MAX_EXACT_PHASES = 1280
const INTERPOLATED_PHASES = 8192

/**
 * Changes the sample rate with a Kaiser-windowed sinc, one filter per output phase.
 * The pass band is flat to 20 kHz at 44.1 kHz and above, images are below -100 dB.
 */
export function resample(clip: Clip, toRateHz: number): Clip {
  if (clip.sampleRateHz === toRateHz) return clip
  const resampler = new Resampler(clip.sampleRateHz, toRateHz, clip.channels.length, clip.frames)
  const channels = clip.channels.map(() => new Float32Array(resampler.frames))
  let at = 0
  for (const piece of [resampler.add(clip.channels), resampler.finish()]) {
    piece.forEach((part, c) => {
      channels[c].set(part, at)
    })
    at += piece[0].length
  }
  return makeClip(toRateHz, channels)
}

/** {@link resample} of a sound that comes in pieces. */
export class Resampler {
  /** Length of the whole output. */
  readonly frames: number
  readonly #kernel: Kernel
  /** The end of the input as far as it is still needed, and where it begins in the whole. */
  #held: Float32Array[]
  #from = 0
  #received = 0
  #made = 0

  /** @param frames length of the whole input. */
  constructor(
    fromRateHz: number,
    toRateHz: number,
    channels: number,
    private readonly inputFrames: number,
  ) {
    this.#kernel = makeKernel(fromRateHz, toRateHz)
    this.frames = Math.max(1, Math.round((inputFrames * toRateHz) / fromRateHz))
    this.#held = Array.from({ length: channels }, () => new Float32Array(0))
  }

  /** Takes the next piece of input and gives the output that can be made by then. */
  add(piece: readonly Float32Array[]): Float32Array[] {
    this.#held = this.#held.map((held, c) => joined(held, piece[c]))
    this.#received += piece[0].length
    const { taps, step } = this.#kernel
    // Output frame n asks for input up to half a filter behind its place.
    const until = Math.floor((this.#received - taps / 2 - 1) / step)
    return this.#make(Math.max(this.#made, Math.min(this.frames, until)))
  }

  /** What is left, with silence behind the input. */
  finish(): Float32Array[] {
    return this.#make(this.frames)
  }

  #make(until: number): Float32Array[] {
    const from = this.#made
    const out = this.#held.map((held) => {
      const part = new Float32Array(until - from)
      resampleInto(part, held, this.#from, this.inputFrames, from, this.#kernel)
      return part
    })
    this.#made = until
    const needed = Math.max(0, Math.floor(until * this.#kernel.step) - this.#kernel.taps / 2)
    const drop = Math.min(this.#held[0].length, Math.max(0, needed - this.#from))
    this.#held = this.#held.map((held) => held.slice(drop))
    this.#from += drop
    return out
  }
}

function joined(a: Float32Array, b: Float32Array): Float32Array {
  if (a.length === 0) return b
  const out = new Float32Array(a.length + b.length)
  out.set(a)
  out.set(b, a.length)
  return out
}

interface Kernel {
  /** Input frames per output frame. */
  readonly step: number
  readonly phases: number
  readonly taps: number
  /** `(phases + 1) × taps` coefficients, row by row. */
  readonly table: Float64Array
  /** True when every output frame falls exactly on a row. */
  readonly exact: boolean
}

function makeKernel(fromHz: number, toHz: number): Kernel {
  const divisor = greatestCommonDivisor(Math.round(fromHz), Math.round(toHz))
  const exactPhases = Math.round(toHz) / divisor
  const exact =
    exactPhases <= MAX_EXACT_PHASES && Number.isInteger(fromHz) && Number.isInteger(toHz)
  const phases = exact ? exactPhases : INTERPOLATED_PHASES
  // When going down, the cut-off follows the lower rate and the kernel widens in input frames.
  const stretch = Math.max(1, fromHz / toHz)
  const half = Math.ceil(HALF_LENGTH * stretch)
  const taps = 2 * half
  // -6 dB point: half a transition band below the lower Nyquist frequency.
  const cutoff = (1 - 7.9 / (2 * HALF_LENGTH) / 1) / stretch
  const table = new Float64Array((phases + 1) * taps)
  for (let p = 0; p <= phases; p++) {
    let sum = 0
    for (let t = 0; t < taps; t++) {
      const x = t - (half - 1) - p / phases
      const value = cutoff * sinc(cutoff * x) * kaiser(x / half)
      table[p * taps + t] = value
      sum += value
    }
    for (let t = 0; t < taps; t++) table[p * taps + t] /= sum
  }
  return { step: fromHz / toHz, phases, taps, table, exact }
}

/**
 * Makes output frames `first` and following into `output`.
 * @param held a part of the input that begins at its frame `heldFrom`. @param length of the whole input
 */
function resampleInto(
  output: Float32Array,
  held: Float32Array,
  heldFrom: number,
  length: number,
  first: number,
  { step, phases, taps, table, exact }: Kernel,
): void {
  const lead = taps / 2 - 1
  const end = Math.min(length - heldFrom, held.length)
  for (let n = 0; n < output.length; n++) {
    const position = (first + n) * step
    let base = Math.floor(position)
    const phase = (position - base) * phases
    let row = exact ? Math.round(phase) : Math.floor(phase)
    if (row === phases && exact) {
      row = 0
      base++
    }
    const blend = exact ? 0 : phase - row
    const from = base - lead - heldFrom
    const t0 = Math.max(0, -from)
    const t1 = Math.min(taps, end - from)
    const at = row * taps
    let sum = 0
    if (blend === 0) {
      for (let t = t0; t < t1; t++) sum += held[from + t] * table[at + t]
    } else {
      for (let t = t0; t < t1; t++) {
        const low = table[at + t]
        sum += held[from + t] * (low + blend * (table[at + taps + t] - low))
      }
    }
    output[n] = sum
  }
}

function sinc(x: number): number {
  return x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x)
}

function kaiser(x: number): number {
  const inside = 1 - x * x
  return inside <= 0 ? 0 : besselI0(KAISER_BETA * Math.sqrt(inside)) / besselI0(KAISER_BETA)
}

/** Modified Bessel function of the first kind, order 0, by its power series. */
export function besselI0(x: number): number {
  let sum = 1
  let term = 1
  for (let k = 1; term > sum * 1e-17; k++) {
    term *= (x / (2 * k)) ** 2
    sum += term
  }
  return sum
}

function greatestCommonDivisor(a: number, b: number): number {
  return b === 0 ? a : greatestCommonDivisor(b, a % b)
}
