import { type Clip, decimate } from '../../audio'
import { crossSpectrum } from '../../spectrum'
import { type Alignment, alignPair, outlineOf } from './alignment'

/** What is to be done to the second of two recordings of one source, so that their sum is as strong as it can be. */
export interface LineUp {
  /** Frames by which it is to be moved later; negative for earlier. */
  readonly delayFrames: number
  readonly polarity: 1 | -1
  /** Turn of its phase at all frequencies; above zero the phase comes later. */
  readonly turnDeg: number
  /** What the sum gains, in dB. */
  readonly gainDb: number
}

/** Where the sum is to gain, in Hz. */
export interface LineUpRange {
  readonly fromHz: number
  readonly toHz: number
}

/** The whole span that tells anything of two recordings. */
export const WHOLE_LINE_UP: LineUpRange = { fromHz: 40, toHz: 16_000 }

/** The values of the treatment that makes it, as fine as they are told. */
export function alignParams({ delayFrames, polarity, turnDeg }: LineUp) {
  return {
    delayFrames: Math.round(100 * delayFrames) / 100,
    polarity,
    turnDeg: Math.round(10 * turnDeg) / 10,
  }
}

const LOW_RATE_HZ = 6000
const LEAST_COHERENCE = 0.5
const ITERATIONS = 12
/** Further steps within a range that is not the whole. */
const IN_RANGE = 6
/** The span of frequency grows from where the rough delay is sure to where it is exact. */
const FIRST_HZ = 1500
const GROWTH = 1.6
/** Bins that have less in common than this tell nothing. */
const LEAST_COMMON = 0.1

/**
 * Lines a second recording up with a first. The rough delay comes from generalised cross-correlation (Knapp and Carter
 * 1976), the exact one and the turn from the slope and the height of the cross spectrum's phase, weighted by coherence.
 * @param range where the sum is to gain: rooms and instruments bend the phase, so that one band may want another answer.
 * @returns null where the two do not carry one source.
 */
export function alignClips(
  lead: Clip,
  other: Clip,
  range: LineUpRange = WHOLE_LINE_UP,
): LineUp | null {
  const rate = lead.sampleRateHz
  const [first, second] = [lead, other].map(mono)
  const halvings = Math.max(0, Math.round(Math.log2(rate / LOW_RATE_HZ)))
  const outlines = [first, second].map((s) =>
    outlineOf(decimate(s, halvings), rate / 2 ** halvings),
  )
  const rough = alignPair(outlines[0], outlines[1], 0)
  if (!rough || rough.coherence < LEAST_COHERENCE) return null
  const later = Math.round(rough.delaySeconds * rate)
  const { delay, turn } = fine(first, shifted(second, later), rate, rough, range)
  // Where both are in time is what counts, as long as their sum gains most of what it may; rooms and noise bend the line.
  const straight = Math.abs(rough.turnDeg) > 90 ? Math.PI : 0
  const tried = [
    { later: later + delay, turn },
    { later: later + delay, turn: straight },
    { later, turn: straight },
    { later: 0, turn: straight },
    { later: 0, turn: 0 },
  ].map((t) => ({ ...t, gainDb: gained(first, second, rate, t.later, t.turn, range) }))
  const most = tried.reduce((a, b) => (b.gainDb > a.gainDb + LEAST_GAIN_DB ? b : a))
  const best = tried[0].gainDb >= MOST_OF_GAIN * most.gainDb ? tried[0] : most
  const turnDeg = (best.turn * 180) / Math.PI
  const wrapped = turnDeg - 360 * Math.round(turnDeg / 360)
  const inverted = Math.abs(wrapped) > 90
  const left = inverted ? wrapped - Math.sign(wrapped) * 180 : wrapped
  return {
    delayFrames: -best.later + 0,
    polarity: inverted ? -1 : 1,
    turnDeg: -left + 0,
    gainDb: best.gainDb,
  }
}

/** A simpler answer is taken only where it gains more by this. */
const LEAST_GAIN_DB = 0.05
/** Being in time is worth this part of the gain. */
const MOST_OF_GAIN = 0.6

/** The middle of a clip. */
export function mono({ channels }: Clip): Float32Array {
  const [left, right] = channels
  return right ? left.map((v, i) => (v + right[i]) / 2) : left
}

/** A signal moved earlier by whole frames. */
function shifted(signal: Float32Array, earlier: number): Float32Array {
  const out = new Float32Array(signal.length)
  if (earlier >= 0) out.set(signal.subarray(earlier))
  else out.set(signal.subarray(0, signal.length + earlier), -earlier)
  return out
}

/** Delay in frames and turn in radians that are left: a straight line through the phase of the cross spectrum. */
function fine(
  first: Float32Array,
  second: Float32Array,
  rate: number,
  rough: Alignment,
  range: LineUpRange,
) {
  const cross = crossSpectrum([first], [second], rate)
  const binHz = rate / cross.size
  let delay = 0
  let turn = (rough.turnDeg * Math.PI) / 180
  let toHz = FIRST_HZ
  for (let n = 0; n < ITERATIONS + IN_RANGE; n++) {
    // The whole span makes the delay sure; then only what lies in the range has a say.
    const { fromHz, toHz: mostHz } = n < ITERATIONS ? WHOLE_LINE_UP : range
    let [w0, w1, w2, e0, e1] = [0, 0, 0, 0, 0]
    for (let k = Math.ceil(fromHz / binHz); k * binHz <= Math.min(toHz, mostHz, 0.45 * rate); k++) {
      const power = cross.first[k] * cross.second[k]
      const common = (cross.re[k] ** 2 + cross.im[k] ** 2) / (power + 1e-30)
      if (common < LEAST_COMMON) continue
      const omega = (2 * Math.PI * k) / cross.size
      const expected = omega * delay + turn
      const [c, s] = [Math.cos(expected), Math.sin(expected)]
      const error = Math.atan2(cross.im[k] * c - cross.re[k] * s, cross.re[k] * c + cross.im[k] * s)
      const weight = common / (1 - Math.min(0.999, common))
      w0 += weight
      w1 += weight * omega
      w2 += weight * omega * omega
      e0 += weight * error
      e1 += weight * omega * error
    }
    const determinant = w0 * w2 - w1 * w1
    if (!(determinant > 0)) break
    delay += (w0 * e1 - w1 * e0) / determinant
    turn += (w2 * e0 - w1 * e1) / determinant
    toHz *= GROWTH
  }
  return { delay, turn }
}

/** What the sum gains when the second is moved and turned back, in dB. */
function gained(
  first: Float32Array,
  second: Float32Array,
  rate: number,
  later: number,
  turn: number,
  { fromHz, toHz }: LineUpRange,
): number {
  const whole = Math.round(later)
  const [now, then] = [second, shifted(second, whole)].map((s) => crossSpectrum([first], [s], rate))
  const binHz = rate / now.size
  let [before, after] = [0, 0]
  for (let k = Math.ceil(fromHz / binHz); k * binHz <= Math.min(toHz, 0.45 * rate); k++) {
    before += now.first[k] + now.second[k] + 2 * now.re[k]
    const phase = ((2 * Math.PI * k) / then.size) * (later - whole) + turn
    const common = then.re[k] * Math.cos(phase) + then.im[k] * Math.sin(phase)
    after += then.first[k] + then.second[k] + 2 * common
  }
  return 10 * Math.log10((after + 1e-30) / Math.max(1e-30, before))
}
