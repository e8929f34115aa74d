import type { Biquad } from './biquad'

/**
 * A second-order section as a trapezoidal state-variable filter: output = m0·input + m1·band + m2·low.
 * Any stable biquad has this form. Unlike the direct form its states keep their meaning while values move,
 * so that a glide makes no jump, and it is exact at very low frequencies.
 */
interface SvfValues {
  g: number
  k: number
  m0: number
  m1: number
  m2: number
}

function blank(): SvfValues {
  return { g: 1, k: 2, m0: 1, m1: 0, m2: 0 }
}

function fromCoefficients(
  out: SvfValues,
  b0: number,
  b1: number,
  b2: number,
  a1: number,
  a2: number,
): SvfValues {
  const atDc = 1 + a1 + a2
  const atNyquist = 1 - a1 + a2
  out.g = Math.sqrt(atDc / atNyquist)
  out.k = (2 * (1 - a2)) / (atNyquist * out.g)
  out.m0 = (b0 - b1 + b2) / atNyquist
  out.m2 = (b0 + b1 + b2) / atDc - out.m0
  out.m1 = ((b0 - b2 - out.m0 * (1 - a2)) * 2) / (atNyquist * out.g)
  return out
}

/** Numbers of a section's step: see {@link SvfSection.step}. */
export const STEP_NUMBERS = 9

const values: SvfValues = blank()

/** The step of the section with a biquad's response, into `out`. */
export function stepOf(
  out: Float64Array,
  b0: number,
  b1: number,
  b2: number,
  a1: number,
  a2: number,
): Float64Array {
  const { g, k, m0, m1, m2 } = fromCoefficients(values, b0, b1, b2, a1, a2)
  const c1 = 1 / (1 + g * (g + k))
  const c2 = g * c1
  const c3 = g * c2
  out[0] = 2 * c1 - 1
  out[1] = -2 * c2
  out[2] = 2 * c2
  out[3] = 2 * c2
  out[4] = 1 - 2 * c3
  out[5] = 2 * c3
  out[6] = m1 * c1 + m2 * c2
  out[7] = m2 * (1 - c3) - m1 * c2
  out[8] = m0 + m1 * c2 + m2 * c3
  return out
}

/** {@link stepOf} for a biquad. */
export function biquadStep({ b0, b1, b2, a1, a2 }: Biquad): Float64Array {
  return stepOf(new Float64Array(STEP_NUMBERS), b0, b1, b2, a1, a2)
}

/** Signals that sections run over: one or two channels. */
export type SvfChannels = readonly Float64Array[]

/** Numbers of a section's direct form: see {@link SvfSection.direct}. */
const DIRECT_NUMBERS = 13
/** Where in them the way from our states to those of the direct form stands, and the way back. */
export const TO_DIRECT = 5
export const FROM_DIRECT = 9
/**
 * How much larger than rounding of the signal an error of our states may become by the way back. A section that
 * does next to nothing is known by differences of large numbers in the direct form.
 */
const MOST_GROWTH = 1e5
/** Below about 20 Hz the poles of a direct form stand too near to 1 for its coefficients. */
const LEAST_AT_DC = 5e-6

/**
 * The transposed direct form II with the response of a step, into `out`: b0, b1, b2, -a1, -a2 of
 * y = b0 x + z1, z1' = b1 x - a1 y + z2, z2' = b2 x - a2 y; then the matrix z = T s and its inverse.
 * Nine operations a frame in place of fifteen.
 *
 * @returns false where the change of states would cost too many digits: such a section stays as it is.
 */
function directOf(out: Float64Array, step: Float64Array): boolean {
  const [aa, ab, ac, ba, bb, bc, ya, yb, yc] = step
  const a1 = -(aa + bb)
  const a2 = aa * bb - ab * ba
  // The first two values after an impulse follow from the step and give the numerator.
  const first = ya * ac + yb * bc
  const second = ya * (aa * ac + ab * bc) + yb * (ba * ac + bb * bc)
  out[0] = yc
  out[1] = first + a1 * yc
  out[2] = second + a1 * first + a2 * yc
  out[3] = -a1
  out[4] = -a2
  // z1 is what sounds without input; z2 what sounds a frame later, less what z1 brings.
  const t2 = ya * (aa + a1) + yb * ba
  const t3 = ya * ab + yb * (bb + a1)
  const determinant = ya * t3 - yb * t2
  out[5] = ya
  out[6] = yb
  out[7] = t2
  out[8] = t3
  out[9] = t3 / determinant
  out[10] = -yb / determinant
  out[11] = -t2 / determinant
  out[12] = ya / determinant
  const growth = Math.max(...out.subarray(FROM_DIRECT).map(Math.abs))
  return 1 + a1 + a2 > LEAST_AT_DC && growth < MOST_GROWTH
}

/** A running section for one or two channels. */
export class SvfSection {
  /** The two states of the first channel, then of the second. */
  readonly state: Float64Array
  /** The section as a linear step: s1' = aa s1 + ab s2 + ac x, s2' = ba s1 + bb s2 + bc x, y = ya s1 + yb s2 + yc x. */
  readonly step = new Float64Array(STEP_NUMBERS)
  /** The section changes nothing and need not run. */
  idle = true
  readonly #direct = new Float64Array(DIRECT_NUMBERS)
  #directStands = false
  #directServes = false

  constructor(channels: number, step: Float64Array) {
    this.state = new Float64Array(2 * channels)
    this.jump(step)
  }

  reset(): void {
    this.state.fill(0)
  }

  /** The section in transposed direct form II, see {@link directOf}; null where that would be less exact. */
  get direct(): Float64Array | null {
    if (!this.#directStands) {
      this.#directServes = directOf(this.#direct, this.step)
      this.#directStands = true
    }
    return this.#directServes ? this.#direct : null
  }

  /** Takes over a step at once, without a glide. */
  jump(step: Float64Array): void {
    this.#directStands = false
    for (let i = 0; i < STEP_NUMBERS; i++) this.step[i] = step[i]
    this.idle =
      Math.abs(step[6]) < 1e-12 && Math.abs(step[7]) < 1e-12 && Math.abs(step[8] - 1) < 1e-12
  }

  /** Moves a share of the way to a step; the sections in between run elsewhere. */
  approach(goal: Float64Array, share: number): void {
    if (share === 1) {
      this.jump(goal)
      return
    }
    for (let i = 0; i < STEP_NUMBERS; i++) this.step[i] += share * (goal[i] - this.step[i])
    this.#directStands = false
    this.idle = false
  }
}

/** Runs sections one by one, resting or gliding; the same in plain code and in the kernel. */
export interface Passes {
  rest(section: SvfSection): void
  /** Moves `share` of the way to `goal` in a straight line while it runs. */
  glide(section: SvfSection, goal: Float64Array, share: number): void
}

const delta = new Float64Array(STEP_NUMBERS)
const moving = new Float64Array(STEP_NUMBERS)

/** {@link Passes} in plain code over frames `from` to `to` of one or two channels. */
export class PlainPasses implements Passes {
  channels: SvfChannels = []
  from = 0
  to = 0
  readonly #one: SvfSection[] = []

  rest(section: SvfSection): void {
    this.#one[0] = section
    runSections(this.#one, this.channels, this.from, this.to)
  }

  glide(section: SvfSection, goal: Float64Array, share: number): void {
    const { state, step } = section
    const { from, to } = this
    for (let i = 0; i < STEP_NUMBERS; i++) delta[i] = ((goal[i] - step[i]) * share) / (to - from)
    for (let c = 0; c < this.channels.length; c++) {
      const signal = this.channels[c]
      moving.set(step)
      let s1 = state[2 * c]
      let s2 = state[2 * c + 1]
      for (let i = from; i < to; i++) {
        for (let k = 0; k < STEP_NUMBERS; k++) moving[k] += delta[k]
        const x = signal[i]
        signal[i] = moving[6] * s1 + moving[7] * s2 + moving[8] * x
        const next = moving[0] * s1 + moving[1] * s2 + moving[2] * x
        s2 = moving[3] * s1 + moving[4] * s2 + moving[5] * x
        s1 = next
      }
      state[2 * c] = s1
      state[2 * c + 1] = s2
    }
    section.approach(goal, share)
  }
}

/** Runs sections in series over one or two channels. */
export function runSections(
  sections: readonly SvfSection[],
  channels: SvfChannels,
  from: number,
  to: number,
): void {
  for (let s = 0; s < sections.length; s++) {
    for (let c = 0; c < channels.length; c++) runChannel(sections[s], channels[c], c, from, to)
  }
}

function runChannel(
  { state, step }: SvfSection,
  signal: Float64Array,
  channel: number,
  from: number,
  to: number,
): void {
  const [aa, ab, ac, ba, bb, bc, ya, yb, yc] = step
  let s1 = state[2 * channel]
  let s2 = state[2 * channel + 1]
  for (let i = from; i < to; i++) {
    const x = signal[i]
    signal[i] = ya * s1 + yb * s2 + yc * x
    const next = aa * s1 + ab * s2 + ac * x
    s2 = ba * s1 + bb * s2 + bc * x
    s1 = next
  }
  state[2 * channel] = settle(s1)
  state[2 * channel + 1] = settle(s2)
}

/** Subnormal numbers are slow and inaudible. */
export function settle(value: number): number {
  return value < 1e-30 && value > -1e-30 ? 0 : value
}
