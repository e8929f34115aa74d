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
 * @param onProgress called now and then with the share done, 0 to 1.
 */
export function resample(
  clip: Clip,
  toRateHz: number,
  onProgress: (share: number) => void = () => {},
): Clip {
  if (clip.sampleRateHz === toRateHz) return clip
  const kernel = makeKernel(clip.sampleRateHz, toRateHz)
  const frames = Math.max(1, Math.round((clip.frames * toRateHz) / clip.sampleRateHz))
  const channels = clip.channels.map((channel, index) =>
    resampleChannel(channel, frames, kernel, (share) =>
      onProgress((index + share) / clip.channels.length),
    ),
  )
  return makeClip(toRateHz, channels)
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

function resampleChannel(
  input: Float32Array,
  frames: number,
  kernel: Kernel,
  onProgress: (share: number) => void,
): Float32Array {
  const { step, phases, taps, table, exact } = kernel
  const output = new Float32Array(frames)
  const lead = taps / 2 - 1
  for (let n = 0; n < frames; n++) {
    if ((n & 0x3ffff) === 0) onProgress(n / frames)
    const position = n * step
    let base = Math.floor(position)
    const phase = (position - base) * phases
    let row = exact ? Math.round(phase) : Math.floor(phase)
    if (row === phases && exact) {
      row = 0
      base++
    }
    const blend = exact ? 0 : phase - row
    const from = base - lead
    const t0 = Math.max(0, -from)
    const t1 = Math.min(taps, input.length - from)
    const at = row * taps
    let sum = 0
    if (blend === 0) {
      for (let t = t0; t < t1; t++) sum += input[from + t] * table[at + t]
    } else {
      for (let t = t0; t < t1; t++) {
        const low = table[at + t]
        sum += input[from + t] * (low + blend * (table[at + taps + t] - low))
      }
    }
    output[n] = sum
  }
  return output
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
