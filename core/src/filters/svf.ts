import type { Biquad } from './biquad'

/**
 * A second-order section as a trapezoidal state-variable filter: output = m0·input + m1·band + m2·low.
 * Any stable biquad has this form. Unlike the direct form it stays stable and free of jumps while its
 * values move, and it is exact at very low frequencies.
 */
export interface SvfValues {
  g: number
  k: number
  m0: number
  m1: number
  m2: number
}

/** The state-variable form with the same response as a biquad. */
export function toSvf({ b0, b1, b2, a1, a2 }: Biquad, out: SvfValues = blank()): SvfValues {
  return fromCoefficients(out, b0, b1, b2, a1, a2)
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

/** Signals that sections run over: one or two channels. */
export type SvfChannels = readonly Float64Array[]

const target: SvfValues = blank()

/** A running section for one or two channels whose values can glide within a block. */
export class SvfSection {
  readonly #now: SvfValues
  /** The two states of the first channel, then of the second. */
  readonly state: Float64Array
  /** The section as a linear step: s1' = aa s1 + ab s2 + ac x, s2' = ba s1 + bb s2 + bc x, y = ya s1 + yb s2 + yc x. */
  readonly step = new Float64Array(9)
  /** The section changes nothing and need not run. */
  idle = true

  constructor(channels: number, values: SvfValues) {
    this.#now = { ...values }
    this.state = new Float64Array(2 * channels)
    this.jump(values)
  }

  reset(): void {
    this.state.fill(0)
  }

  /** Takes over values at once, without a glide. */
  jump(values: SvfValues): void {
    const { g, k, m0, m1, m2 } = values
    const now = this.#now
    now.g = g
    now.k = k
    now.m0 = m0
    now.m1 = m1
    now.m2 = m2
    this.idle = m0 === 1 && Math.abs(m1) < 1e-12 && Math.abs(m2) < 1e-12
    const a1 = 1 / (1 + g * (g + k))
    const a2 = g * a1
    const a3 = g * a2
    const step = this.step
    step[0] = 2 * a1 - 1
    step[1] = -2 * a2
    step[2] = 2 * a2
    step[3] = 2 * a2
    step[4] = 1 - 2 * a3
    step[5] = 2 * a3
    step[6] = m1 * a1 + m2 * a2
    step[7] = m2 * (1 - a3) - m1 * a2
    step[8] = m0 + m1 * a2 + m2 * a3
  }

  /** Glides all the way to a biquad given by five numbers of a quick design. */
  glideToQuick(
    channels: SvfChannels,
    from: number,
    to: number,
    design: Float64Array,
    at: number,
  ): void {
    fromCoefficients(
      target,
      design[at],
      design[at + 1],
      design[at + 2],
      design[at + 3],
      design[at + 4],
    )
    this.glide(channels, from, to, target, 1)
  }

  /** Filters all channels while the values move `share` of the way to `goal` in a straight line. */
  glide(channels: SvfChannels, from: number, to: number, goal: SvfValues, share: number): void {
    const now = this.#now
    const portion = share / (to - from)
    const dg = (goal.g - now.g) * portion
    const dk = (goal.k - now.k) * portion
    const d0 = (goal.m0 - now.m0) * portion
    const d1 = (goal.m1 - now.m1) * portion
    const d2 = (goal.m2 - now.m2) * portion
    let { g, k, m0, m1, m2 } = now
    const state = this.state
    const [left] = channels
    const right = channels.length > 1 ? channels[1] : null
    let s1 = state[0]
    let s2 = state[1]
    let r1 = right ? state[2] : 0
    let r2 = right ? state[3] : 0
    for (let i = from; i < to; i++) {
      g += dg
      k += dk
      m0 += d0
      m1 += d1
      m2 += d2
      const a1 = 1 / (1 + g * (g + k))
      const a2 = g * a1
      const a3 = g * a2
      const x = left[i]
      const v3 = x - s2
      const v1 = a1 * s1 + a2 * v3
      const v2 = s2 + a2 * s1 + a3 * v3
      s1 = 2 * v1 - s1
      s2 = 2 * v2 - s2
      left[i] = m0 * x + m1 * v1 + m2 * v2
      if (right) {
        const y = right[i]
        const w3 = y - r2
        const w1 = a1 * r1 + a2 * w3
        const w2 = r2 + a2 * r1 + a3 * w3
        r1 = 2 * w1 - r1
        r2 = 2 * w2 - r2
        right[i] = m0 * y + m1 * w1 + m2 * w2
      }
    }
    state[0] = s1
    state[1] = s2
    if (right) {
      state[2] = r1
      state[3] = r2
    }
    if (share === 1) this.jump(goal)
    else {
      target.g = g
      target.k = k
      target.m0 = m0
      target.m1 = m1
      target.m2 = m2
      this.jump(target)
    }
  }
}

/** Runs sections in series over one or two channels; two at a time, so that their steps overlap. */
export function runSections(
  sections: readonly SvfSection[],
  channels: SvfChannels,
  from: number,
  to: number,
): void {
  if (sections.length === 0) return
  let s = 0
  if (channels.length === 2) {
    for (; s + 1 < sections.length; s += 2) {
      runPair(sections[s], sections[s + 1], channels[0], channels[1], from, to)
    }
    for (; s < sections.length; s++) runStereo(sections[s], channels[0], channels[1], from, to)
    return
  }
  for (; s < sections.length; s++) runMono(sections[s], channels[0], from, to)
}

/** Subnormal numbers are slow and inaudible. */
function settle(value: number): number {
  return value < 1e-30 && value > -1e-30 ? 0 : value
}

function runMono({ state, step }: SvfSection, signal: Float64Array, from: number, to: number) {
  const [aa, ab, ac, ba, bb, bc, ya, yb, yc] = step
  let s1 = state[0]
  let s2 = state[1]
  for (let i = from; i < to; i++) {
    const x = signal[i]
    signal[i] = ya * s1 + yb * s2 + yc * x
    const next = aa * s1 + ab * s2 + ac * x
    s2 = ba * s1 + bb * s2 + bc * x
    s1 = next
  }
  state[0] = settle(s1)
  state[1] = settle(s2)
}

function runStereo(
  { state, step }: SvfSection,
  left: Float64Array,
  right: Float64Array,
  from: number,
  to: number,
): void {
  const [aa, ab, ac, ba, bb, bc, ya, yb, yc] = step
  let s1 = state[0]
  let s2 = state[1]
  let r1 = state[2]
  let r2 = state[3]
  for (let i = from; i < to; i++) {
    const x = left[i]
    const y = right[i]
    left[i] = ya * s1 + yb * s2 + yc * x
    right[i] = ya * r1 + yb * r2 + yc * y
    const s = aa * s1 + ab * s2 + ac * x
    s2 = ba * s1 + bb * s2 + bc * x
    s1 = s
    const r = aa * r1 + ab * r2 + ac * y
    r2 = ba * r1 + bb * r2 + bc * y
    r1 = r
  }
  state[0] = settle(s1)
  state[1] = settle(s2)
  state[2] = settle(r1)
  state[3] = settle(r2)
}

function runPair(
  first: SvfSection,
  second: SvfSection,
  left: Float64Array,
  right: Float64Array,
  from: number,
  to: number,
): void {
  const [aa, ab, ac, ba, bb, bc, ya, yb, yc] = first.step
  const [ca, cb, cc, da, db, dc, za, zb, zc] = second.step
  const one = first.state
  const two = second.state
  let s1 = one[0]
  let s2 = one[1]
  let r1 = one[2]
  let r2 = one[3]
  let u1 = two[0]
  let u2 = two[1]
  let v1 = two[2]
  let v2 = two[3]
  for (let i = from; i < to; i++) {
    const x = left[i]
    const y = right[i]
    const p = ya * s1 + yb * s2 + yc * x
    const q = ya * r1 + yb * r2 + yc * y
    const s = aa * s1 + ab * s2 + ac * x
    s2 = ba * s1 + bb * s2 + bc * x
    s1 = s
    const r = aa * r1 + ab * r2 + ac * y
    r2 = ba * r1 + bb * r2 + bc * y
    r1 = r
    left[i] = za * u1 + zb * u2 + zc * p
    right[i] = za * v1 + zb * v2 + zc * q
    const u = ca * u1 + cb * u2 + cc * p
    u2 = da * u1 + db * u2 + dc * p
    u1 = u
    const v = ca * v1 + cb * v2 + cc * q
    v2 = da * v1 + db * v2 + dc * q
    v1 = v
  }
  one[0] = settle(s1)
  one[1] = settle(s2)
  one[2] = settle(r1)
  one[3] = settle(r2)
  two[0] = settle(u1)
  two[1] = settle(u2)
  two[2] = settle(v1)
  two[3] = settle(v2)
}
