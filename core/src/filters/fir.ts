import { doubleFft, kaiserWindow, makeWindow } from '../spectrum'

/** The window that a filter's impulse response is cut out with. */
export type FirWindow =
  | { readonly kind: 'hann' | 'blackman-harris' | 'flat-top' }
  | { readonly kind: 'kaiser'; readonly attenuationDb: number }
  /** Flat but for a share of each half, which falls along a cosine: for responses that die away by themselves. */
  | { readonly kind: 'tapered'; readonly share: number }

/** A finite impulse response, with the delay at which it counts as undelayed. */
export interface FirKernel {
  readonly taps: Float32Array
  /** Frames by which the output comes later than the input. */
  readonly latency: number
}

export const SHORTEST_FIR = 64
export const LONGEST_FIR = 65536

/** Depth that counts as silence in a design, in dB. */
const FLOOR_DB = -160

/**
 * A linear-phase filter with the magnitude `db(hz)`, by frequency sampling on a grid twice as fine and a
 * window. The length is made odd (one tap fewer than asked) so that the delay is a whole number of frames.
 */
export function linearPhaseFir(
  db: (hz: number) => number,
  taps: number,
  window: FirWindow,
  rateHz: number,
): FirKernel {
  const size = gridSize(taps)
  const half = Math.floor((taps - 1) / 2)
  const spectrum = new Float64Array(size + 2)
  for (let k = 0; k <= size / 2; k++) spectrum[2 * k] = magnitude(db((k * rateHz) / size))
  const centred = doubleFft(size).inverse(spectrum)
  const shape = windowOf(window, 2 * half + 1)
  const out = new Float32Array(2 * half + 1)
  for (let i = -half; i <= half; i++) {
    out[half + i] = centred[(i + size) % size] * shape[half + i]
  }
  return { taps: out, latency: half }
}

/**
 * The minimum-phase filter with the magnitude of the linear-phase one of the same length and window:
 * reflecting its zeros by folding the real cepstrum (Oppenheim and Schafer, Discrete-Time Signal
 * Processing) keeps the length, so that nothing has to be cut off. No latency.
 */
export function minimumPhaseFir(
  db: (hz: number) => number,
  taps: number,
  window: FirWindow,
  rateHz: number,
): FirKernel {
  const linear = linearPhaseFir(db, taps, window, rateHz)
  // The cepstrum aliases: a finer grid keeps sharp curves apart.
  const impulse = minimumPhaseImpulse(firMagnitudeDb(linear.taps, 4 * gridSize(taps)))
  return { taps: Float32Array.from(impulse.subarray(0, linear.taps.length)), latency: 0 }
}

/** Impulse response of minimum phase from a magnitude in dB at bins 0 to size/2. */
function minimumPhaseImpulse(db: Float64Array): Float64Array {
  const size = 2 * (db.length - 1)
  const fft = doubleFft(size)
  const log = new Float64Array(size + 2)
  for (let k = 0; k < db.length; k++) {
    log[2 * k] = (Math.max(FLOOR_DB, db[k]) * Math.LN10) / 20
  }
  const cepstrum = fft.inverse(log)
  for (let i = 1; i < size / 2; i++) {
    cepstrum[i] *= 2
    cepstrum[size - i] = 0
  }
  const folded = fft.forward(cepstrum)
  for (let k = 0; k < db.length; k++) {
    const size = Math.exp(folded[2 * k])
    const angle = folded[2 * k + 1]
    folded[2 * k] = size * Math.cos(angle)
    folded[2 * k + 1] = size * Math.sin(angle)
  }
  return fft.inverse(folded)
}

function gridSize(taps: number): number {
  return 2 ** Math.ceil(Math.log2(2 * taps))
}

function magnitude(db: number): number {
  return db <= FLOOR_DB ? 0 : 10 ** (db / 20)
}

function windowOf(window: FirWindow, size: number): Float64Array {
  if (window.kind === 'kaiser') return kaiserWindow(size, window.attenuationDb)
  if (window.kind === 'tapered') return taperedWindow(size, window.share)
  const shape = makeWindow(window.kind, size, 'symmetric')
  // The flat top's terms add up to more than one in its middle.
  const top = shape[(size - 1) / 2]
  return shape.map((v) => v / top)
}

/** Magnitude of an impulse response at bins 0 to size/2 of a transform of `size`, in dB. */
export function firMagnitudeDb(taps: ArrayLike<number>, size: number): Float64Array {
  const padded = new Float64Array(size)
  padded.set(taps)
  const spectrum = doubleFft(size).forward(padded)
  return Float64Array.from({ length: size / 2 + 1 }, (_, k) => {
    const power = spectrum[2 * k] ** 2 + spectrum[2 * k + 1] ** 2
    return 10 * Math.log10(Math.max(1e-30, power))
  })
}

/** Tukey's window (Harris 1978). */
function taperedWindow(size: number, share: number): Float64Array {
  const half = (size - 1) / 2
  const edge = Math.max(1, share * half)
  return Float64Array.from({ length: size }, (_, i) => {
    const left = Math.min(i, size - 1 - i)
    return left >= edge ? 1 : 0.5 - 0.5 * Math.cos((Math.PI * (left + 1)) / (edge + 1))
  })
}

/** Echoes less early than this are covered by what they precede. */
const PRE_ECHO_SECONDS = 0.005

/**
 * The strongest tap more than 5 ms before the main one, relative to it, in dB; null where there is none.
 * @param main place of the main tap.
 */
export function preEchoOf(taps: ArrayLike<number>, main: number, rateHz: number): number | null {
  const early = main - Math.round(PRE_ECHO_SECONDS * rateHz)
  let strongest = 0
  for (let i = 0; i < early; i++) strongest = Math.max(strongest, Math.abs(taps[i]))
  return strongest > 0 ? 20 * Math.log10(strongest / Math.abs(taps[main])) : null
}
