import { bandEdgeHz, FILTER_COUNT } from '../../hearing'
import { makeWindow, realFft } from '../../spectrum'

/** How two recordings of one source stand to each other. */
export interface Alignment {
  /** The other comes this much later than the first, in seconds; negative for earlier. */
  readonly delaySeconds: number
  /** Constant turn of phase of the other against the first, -180 to 180 degrees, delay taken out. */
  readonly turnDeg: number
  /** How alike they are once that is undone, 0 to 1. */
  readonly coherence: number
  /** What their sum loses against the best sum of the two, in dB. */
  readonly lostDb: number
  /** The same after the delay is undone and the polarity chosen, in dB. */
  readonly lostAlignedDb: number
  readonly fromHz: number
  readonly toHz: number
  /** Power of the sum against that of the two apart, per auditory filter: as it is, and at best. */
  readonly nowRatio: Float64Array
  readonly bestRatio: Float64Array
}

const SEGMENT = 2048
const ROW = SEGMENT + 2
/** Longer ways than 10 m through air are not one source in two microphones. */
const LONGEST_SECONDS = 0.03
const LEAST_POWER = 1e-9
/** Range in which the sum is judged, in Hz. */
const FROM_HZ = 40
const TO_HZ = 2000

/** Cross spectra of two outlines, averaged over time. */
interface Cross {
  readonly aa: Float64Array
  readonly bb: Float64Array
  readonly re: Float64Array
  readonly im: Float64Array
  readonly binHz: number
}

/** Short-time spectra of a few seconds of a sound at a low rate, for pairing it with others. */
export interface Outline {
  readonly rateHz: number
  readonly segments: number
  /** Real and imaginary part of each bin, `segments × (SEGMENT + 2)`. */
  readonly spectra: Float32Array
  /** Power of each bin, summed over all segments. */
  readonly power: Float64Array
}

export function outlineOf(signal: Float32Array, rateHz: number): Outline {
  const fft = realFft(SEGMENT)
  const window = makeWindow('hann', SEGMENT)
  const time = new Float32Array(SEGMENT)
  const segments = Math.max(0, Math.ceil((signal.length - SEGMENT / 2) / (SEGMENT / 2)))
  const spectra = new Float32Array(segments * ROW)
  for (let s = 0; s < segments; s++) {
    const at = (s * SEGMENT) / 2
    for (let i = 0; i < SEGMENT; i++) time[i] = (signal[at + i] ?? 0) * window[i]
    fft.forward(time, spectra.subarray(s * ROW, (s + 1) * ROW))
  }
  return { rateHz, segments, spectra, power: powerOver(spectra, segments) }
}

/**
 * Generalised cross-correlation (Knapp and Carter 1976), weighted by coherence; its envelope gives the
 * delay whatever the constant turn of phase, and what is left of the phase then gives the turn.
 * @param gainDb level of the other against the first in their sum.
 * @returns null when either is silent.
 */
export function alignPair(a: Outline, b: Outline, gainDb: number): Alignment | null {
  const cross = crossSpectrum(a, b, 10 ** (gainDb / 20))
  if (!cross) return null
  const { turned, plain } = peakDelays(cross, a.rateHz)
  const full = judge(cross, turned)
  // The simplest that does as well: a delay and a polarity before a turn of phase.
  const simple = judge(cross, plain)
  const inverted = Math.abs(simple.turnDeg) > 90
  const loss = lossOf(cross, turned, (full.turnDeg * Math.PI) / 180)
  const isAsGood = simple.lostAlignedDb <= loss + SIMPLE_DB
  return isAsGood ? { ...simple, turnDeg: inverted ? 180 : 0 } : full
}

/**
 * What the sum of two loses against their best sum, in dB, with the other shifted and turned in phase.
 * @param laterSeconds how much later the other comes then; negative for earlier.
 * @param turnDeg constant turn of its phase besides; above zero the phase comes later.
 */
export function lostInSum(
  a: Outline,
  b: Outline,
  gainDb: number,
  laterSeconds: number,
  turnDeg: number,
): number {
  const cross = crossSpectrum(a, b, 10 ** (gainDb / 20))
  if (!cross) return 0
  return lossOf(cross, -laterSeconds, (turnDeg * Math.PI) / 180)
}

/** What the sum loses against the best one once a delay and a turn of phase, in radians, are undone. */
function lossOf(cross: Cross, delaySeconds: number, turn: number): number {
  let now = 0
  let best = 0
  for (let k = Math.ceil(FROM_HZ / cross.binHz); k * cross.binHz <= TO_HZ; k++) {
    const w = 2 * Math.PI * k * cross.binHz * delaySeconds - turn
    const re = cross.re[k] * Math.cos(w) - cross.im[k] * Math.sin(w)
    const single = cross.aa[k] + cross.bb[k]
    now += single + 2 * re
    best += single + 2 * Math.hypot(cross.re[k], cross.im[k])
  }
  return 10 * Math.log10((best + 1e-20) / Math.max(1e-20, now))
}

function crossSpectrum(a: Outline, b: Outline, gain: number): Cross | null {
  const bins = SEGMENT / 2 + 1
  const count = Math.min(a.segments, b.segments)
  const powerOf = ({ segments, spectra, power }: Outline) =>
    segments === count ? power.slice() : powerOver(spectra, count)
  const cross = {
    aa: powerOf(a),
    bb: powerOf(b),
    re: new Float64Array(bins),
    im: new Float64Array(bins),
    binHz: a.rateHz / SEGMENT,
  }
  const first = Math.ceil(FROM_HZ / cross.binHz)
  const last = Math.floor(TO_HZ / cross.binHz)
  for (let s = 0; s < count; s++) accumulate(cross, a.spectra, b.spectra, s * ROW, first, last)
  for (let k = 0; k < bins; k++) {
    cross.bb[k] *= gain * gain
    cross.re[k] *= gain
    cross.im[k] *= gain
  }
  const sum = (v: Float64Array) => v.reduce((s, p) => s + p, 0)
  return sum(cross.aa) > LEAST_POWER && sum(cross.bb) > LEAST_POWER ? cross : null
}

function powerOver(spectra: Float32Array, segments: number): Float64Array {
  const power = new Float64Array(SEGMENT / 2 + 1)
  for (let s = 0; s < segments; s++) {
    for (let k = 0; k < power.length; k++) {
      const at = s * ROW + 2 * k
      power[k] += spectra[at] ** 2 + spectra[at + 1] ** 2
    }
  }
  return power
}

function accumulate(
  { re, im }: Cross,
  x: Float32Array,
  y: Float32Array,
  row: number,
  first: number,
  last: number,
): void {
  for (let k = first; k <= last; k++) {
    const at = row + 2 * k
    const xr = x[at]
    const xi = x[at + 1]
    const yr = y[at]
    const yi = y[at + 1]
    // Conjugate of the first times the other: its phase falls with the other's delay.
    re[k] += xr * yr + xi * yi
    im[k] += xr * yi - xi * yr
  }
}

/** A turn of phase that wins less than this beside a delay and a polarity is none, in dB. */
const SIMPLE_DB = 0.15

/** Delays at the top of the weighted cross-correlation's envelope, whatever the turn, and at its own, of either sign. */
function peakDelays(cross: Cross, rateHz: number): { turned: number; plain: number } {
  const fft = realFft(SEGMENT)
  const real = new Float32Array(SEGMENT + 2)
  const imaginary = new Float32Array(SEGMENT + 2)
  for (let k = 1; k < cross.aa.length; k++) {
    const hz = k * cross.binHz
    if (hz < FROM_HZ || hz > TO_HZ) continue
    const power = Math.sqrt(cross.aa[k] * cross.bb[k]) + 1e-20
    const magnitude = Math.hypot(cross.re[k], cross.im[k])
    // Coherent bins count, by the root of their power: neither the strongest alone nor noise.
    const weight = ((magnitude / power) ** 2 * Math.sqrt(power)) / (magnitude + 1e-20)
    real[2 * k] = cross.re[k] * weight
    real[2 * k + 1] = cross.im[k] * weight
    imaginary[2 * k] = real[2 * k + 1]
    imaginary[2 * k + 1] = -real[2 * k]
  }
  const [c, h] = [new Float32Array(SEGMENT), new Float32Array(SEGMENT)]
  fft.inverse(real, c)
  fft.inverse(imaginary, h)
  const reach = Math.round(LONGEST_SECONDS * rateHz)
  const at = (lag: number) => (lag + SEGMENT) % SEGMENT
  const top = (height: (lag: number) => number) => {
    let best = 0
    for (let lag = -reach; lag <= reach; lag++) if (height(lag) > height(best)) best = lag
    const [p, q, r] = [height(best - 1), height(best), height(best + 1)]
    const shift = p - 2 * q + r === 0 ? 0 : (0.5 * (p - r)) / (p - 2 * q + r)
    return (best + shift) / rateHz
  }
  return {
    turned: top((lag) => Math.hypot(c[at(lag)], h[at(lag)])),
    plain: top((lag) => Math.abs(c[at(lag)])),
  }
}

/** Energies of the sum as it is, lined up, and at best, over the range in which both matter. */
function judge(cross: Cross, delaySeconds: number): Alignment {
  let turnRe = 0
  let turnIm = 0
  let power = 0
  const first = Math.ceil(FROM_HZ / cross.binHz)
  const last = Math.floor(TO_HZ / cross.binHz)
  for (let k = first; k <= last; k++) {
    // The delay undone, what is left of the phase is the turn.
    const w = 2 * Math.PI * k * cross.binHz * delaySeconds
    turnRe += cross.re[k] * Math.cos(w) - cross.im[k] * Math.sin(w)
    turnIm += cross.re[k] * Math.sin(w) + cross.im[k] * Math.cos(w)
    power += Math.sqrt(cross.aa[k] * cross.bb[k])
  }
  const turn = Math.atan2(turnIm, turnRe)
  const polarity = Math.cos(turn) < 0 ? -1 : 1
  let now = 0
  let aligned = 0
  let best = 0
  let strongest = 0
  const gains: { hz: number; loss: number }[] = []
  const perFilter = [0, 1, 2].map(() => new Float64Array(FILTER_COUNT))
  let filter = 0
  for (let k = first; k <= last; k++) {
    const w = 2 * Math.PI * k * cross.binHz * delaySeconds
    const re = cross.re[k] * Math.cos(w) - cross.im[k] * Math.sin(w)
    const single = cross.aa[k] + cross.bb[k]
    const ideal = single + 2 * Math.hypot(cross.re[k], cross.im[k])
    now += single + 2 * cross.re[k]
    aligned += single + 2 * polarity * re
    best += ideal
    strongest = Math.max(strongest, ideal)
    while (filter < FILTER_COUNT - 1 && bandEdgeHz(filter + 1) < k * cross.binHz) filter++
    perFilter[0][filter] += single
    perFilter[1][filter] += single + 2 * cross.re[k]
    perFilter[2][filter] += ideal
    gains.push({ hz: k * cross.binHz, loss: ideal - single - 2 * cross.re[k] })
  }
  const lost = gains.reduce((sum, g) => sum + g.loss, 0)
  const place = (share: number) => {
    let left = share * lost
    for (const { hz, loss } of gains) {
      left -= loss
      if (left <= 0) return hz
    }
    return TO_HZ
  }
  return {
    delaySeconds,
    turnDeg: (turn * 180) / Math.PI,
    coherence: Math.hypot(turnRe, turnIm) / (power + 1e-20),
    lostDb: 10 * Math.log10(best / Math.max(1e-20, now)),
    lostAlignedDb: 10 * Math.log10(best / Math.max(1e-20, aligned)),
    fromHz: place(0.1),
    toHz: place(0.9),
    nowRatio: ratios(perFilter[1], perFilter[0]),
    bestRatio: ratios(perFilter[2], perFilter[0]),
  }
}

/** Quotient per filter; filters without a bin of their own have what the one below has. */
function ratios(sum: Float64Array, single: Float64Array): Float64Array {
  let last = 1
  return sum.map((v, i) => {
    if (single[i] > 0) last = Math.max(1e-4, v / single[i])
    return last
  })
}
