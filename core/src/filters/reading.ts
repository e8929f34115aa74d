import type { Biquad } from './biquad'

/** A linear filter as pictures and reports read it: recursive sections and kernels in series. */
export interface ReadableFilter {
  readonly sections: readonly Biquad[]
  readonly kernels: readonly ArrayLike<number>[]
  /** Delay that is taken out of phase and group delay, in frames. */
  readonly latency: number
}

/** What a filter does at one frequency. Phase and delay are without the filter's latency. */
export interface FilterReading {
  readonly hz: number
  readonly db: number
  /** -180 to 180. */
  readonly phaseDeg: number
  /** Continuous over frequency, from 0 Hz on. */
  readonly unwrappedDeg: number
  readonly groupDelayMs: number
}

interface Parts {
  readonly re: number
  readonly im: number
  /** Group delay in frames. */
  readonly delay: number
}

/** Magnitude, phase and group delay at each frequency, in rising order: the one reading for all pictures. */
export function readFilter(
  filter: ReadableFilter,
  hz: ArrayLike<number>,
  rateHz: number,
): FilterReading[] {
  let turns = 0
  let lastHz = 0
  let lastPhase = 0
  let lastDelay = 0
  return Array.from(hz, (f) => {
    // Between the asked frequencies phase is followed in steps small enough not to lose a turn.
    const steps = stepsBetween(lastHz, f, lastDelay, filter, rateHz)
    const parts = respond(filter, f, rateHz)
    for (let s = 1; s <= steps; s++) {
      const at = s === steps ? parts : respond(filter, lastHz + ((f - lastHz) * s) / steps, rateHz)
      const phase = Math.atan2(at.im, at.re)
      turns += Math.round((lastPhase - phase) / (2 * Math.PI))
      lastPhase = phase
    }
    lastHz = f
    lastDelay = parts.delay
    const power = parts.re ** 2 + parts.im ** 2
    const phaseDeg = (lastPhase * 180) / Math.PI
    return {
      hz: f,
      db: 10 * Math.log10(Math.max(1e-30, power)),
      phaseDeg,
      unwrappedDeg: phaseDeg + 360 * turns,
      groupDelayMs: (1000 * parts.delay) / rateHz,
    }
  })
}

function stepsBetween(
  from: number,
  to: number,
  delay: number,
  filter: ReadableFilter,
  rateHz: number,
): number {
  const longest = filter.kernels.reduce((most, k) => Math.max(most, k.length), 0)
  const turnFrames = Math.max(Math.abs(delay), longest / 2, 64)
  return Math.max(1, Math.min(400, Math.ceil(((to - from) * turnFrames * 4) / rateHz)))
}

function respond(filter: ReadableFilter, hz: number, rateHz: number): Parts {
  const w = (2 * Math.PI * hz) / rateHz
  let re = Math.cos(w * filter.latency)
  let im = Math.sin(w * filter.latency)
  let delay = -filter.latency
  const multiply = (r: number, i: number) => {
    const next = re * r - im * i
    im = re * i + im * r
    re = next
  }
  for (const { b0, b1, b2, a1, a2 } of filter.sections) {
    const n = evaluate([b0, b1, b2], w)
    const d = evaluate([1, a1, a2], w)
    const size = d.re ** 2 + d.im ** 2
    multiply((n.re * d.re + n.im * d.im) / size, (n.im * d.re - n.re * d.im) / size)
    delay += n.delay - d.delay
  }
  for (const taps of filter.kernels) {
    const k = evaluate(taps, w)
    multiply(k.re, k.im)
    delay += k.delay
  }
  return { re, im, delay }
}

/** Σ h[n] e^{-jwn} and its group delay Re(Σ n h[n] e^{-jwn} / Σ h[n] e^{-jwn}). */
function evaluate(h: ArrayLike<number>, w: number): Parts {
  let re = 0
  let im = 0
  let dre = 0
  let dim = 0
  const stepRe = Math.cos(w)
  const stepIm = -Math.sin(w)
  let er = 1
  let ei = 0
  for (let n = 0; n < h.length; n++) {
    // The rotation is set right now and then, before its rounding adds up.
    if ((n & 255) === 0) {
      er = Math.cos(w * n)
      ei = -Math.sin(w * n)
    }
    re += h[n] * er
    im += h[n] * ei
    dre += n * h[n] * er
    dim += n * h[n] * ei
    const next = er * stepRe - ei * stepIm
    ei = er * stepIm + ei * stepRe
    er = next
  }
  const size = re * re + im * im
  return { re, im, delay: size > 1e-30 ? (dre * re + dim * im) / size : 0 }
}

/** The first `frames` of the filter's impulse response, latency included. */
export function impulseResponse(filter: ReadableFilter, frames: number): Float64Array {
  let signal = new Float64Array(frames)
  signal[0] = 1
  for (const taps of filter.kernels) {
    const out = new Float64Array(frames)
    for (let i = 0; i < frames; i++) {
      if (signal[i] === 0) continue
      const end = Math.min(frames - i, taps.length)
      for (let k = 0; k < end; k++) out[i + k] += signal[i] * taps[k]
    }
    signal = out
  }
  for (const { b0, b1, b2, a1, a2 } of filter.sections) {
    let s1 = 0
    let s2 = 0
    for (let i = 0; i < frames; i++) {
      const x = signal[i]
      const y = b0 * x + s1
      s1 = b1 * x - a1 * y + s2
      s2 = b2 * x - a2 * y
      signal[i] = y
    }
  }
  return signal
}

/** The first `frames` of the answer to a step. */
export function stepResponse(filter: ReadableFilter, frames: number): Float64Array {
  const out = impulseResponse(filter, frames)
  for (let i = 1; i < frames; i++) out[i] += out[i - 1]
  return out
}

/** One of the paths that meet in a sum: the same source, differently treated. */
export interface SummedPath {
  readonly filter: ReadableFilter
  readonly gainDb: number
  readonly delayFrames: number
  readonly polarity: 'normal' | 'inverted'
}

/** Magnitude of the sum of paths that carry one source, in dB: a·H1 + b·H2 … with their delays. */
export function predictSumDb(
  paths: readonly SummedPath[],
  hz: ArrayLike<number>,
  rateHz: number,
): Float64Array {
  return Float64Array.from(hz, (f) => {
    const w = (2 * Math.PI * f) / rateHz
    let re = 0
    let im = 0
    for (const { filter, gainDb, delayFrames, polarity } of paths) {
      const h = respond(filter, f, rateHz)
      const gain = (polarity === 'inverted' ? -1 : 1) * 10 ** (gainDb / 20)
      const c = Math.cos(w * delayFrames)
      const s = Math.sin(w * delayFrames)
      re += gain * (h.re * c + h.im * s)
      im += gain * (h.im * c - h.re * s)
    }
    return 10 * Math.log10(Math.max(1e-30, re * re + im * im))
  })
}
