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
export function toSvf(section: Biquad): SvfValues {
  const atDc = 1 + section.a1 + section.a2
  const atNyquist = 1 - section.a1 + section.a2
  const g = Math.sqrt(atDc / atNyquist)
  const k = (2 * (1 - section.a2)) / (atNyquist * g)
  const m0 = (section.b0 - section.b1 + section.b2) / atNyquist
  const m2 = (section.b0 + section.b1 + section.b2) / atDc - m0
  const m1 = ((section.b0 - section.b2 - m0 * (1 - section.a2)) * 2) / (atNyquist * g)
  return { g, k, m0, m1, m2 }
}

/** A running section for some channels whose values can glide within a block. */
export class SvfSection {
  readonly #now: SvfValues
  readonly #state: Float64Array
  /** The section changes nothing and need not run. */
  #idle: boolean

  constructor(channels: number, values: SvfValues) {
    this.#now = { ...values }
    this.#state = new Float64Array(channels * 2)
    this.#idle = isUnity(values)
  }

  reset(): void {
    this.#state.fill(0)
  }

  /** Takes over values at once, without a glide. */
  jump(values: SvfValues): void {
    Object.assign(this.#now, values)
    this.#idle = isUnity(values)
  }

  /**
   * Filters frames `from` to `to` of all channels in place with the present values.
   * @param evenIdle keeps the state up to date in a section that changes nothing yet.
   */
  runAll(channels: readonly Float64Array[], from: number, to: number, evenIdle = false): void {
    if (this.#idle && !evenIdle) return
    for (let c = 0; c < channels.length; c++) this.#run(channels[c], from, to, c)
  }

  #run(channel: Float64Array, from: number, to: number, index: number): void {
    const { g, k, m0, m1, m2 } = this.#now
    const a1 = 1 / (1 + g * (g + k))
    const a2 = g * a1
    const a3 = g * a2
    const state = this.#state
    let s1 = state[2 * index]
    let s2 = state[2 * index + 1]
    for (let i = from; i < to; i++) {
      const x = channel[i]
      const v3 = x - s2
      const v1 = a1 * s1 + a2 * v3
      const v2 = s2 + a2 * s1 + a3 * v3
      s1 = 2 * v1 - s1
      s2 = 2 * v2 - s2
      channel[i] = m0 * x + m1 * v1 + m2 * v2
    }
    // Subnormal numbers are slow and inaudible.
    state[2 * index] = Math.abs(s1) < 1e-30 ? 0 : s1
    state[2 * index + 1] = Math.abs(s2) < 1e-30 ? 0 : s2
  }

  /** Filters all channels while the values move `share` of the way to `target` in a straight line. */
  glide(
    channels: readonly Float64Array[],
    from: number,
    to: number,
    target: SvfValues,
    share = 1,
  ): void {
    const now = this.#now
    if (this.#idle && isUnity(target)) {
      this.jump(target)
      return
    }
    const step = share / (to - from)
    const dg = (target.g - now.g) * step
    const dk = (target.k - now.k) * step
    const d0 = (target.m0 - now.m0) * step
    const d1 = (target.m1 - now.m1) * step
    const d2 = (target.m2 - now.m2) * step
    for (let c = 0; c < channels.length; c++) {
      const channel = channels[c]
      let { g, k, m0, m1, m2 } = now
      let s1 = this.#state[2 * c]
      let s2 = this.#state[2 * c + 1]
      for (let i = from; i < to; i++) {
        g += dg
        k += dk
        m0 += d0
        m1 += d1
        m2 += d2
        const a1 = 1 / (1 + g * (g + k))
        const a2 = g * a1
        const x = channel[i]
        const v3 = x - s2
        const v1 = a1 * s1 + a2 * v3
        const v2 = s2 + a2 * s1 + g * a2 * v3
        s1 = 2 * v1 - s1
        s2 = 2 * v2 - s2
        channel[i] = m0 * x + m1 * v1 + m2 * v2
      }
      this.#state[2 * c] = s1
      this.#state[2 * c + 1] = s2
    }
    if (share === 1) this.jump(target)
    else {
      const frames = to - from
      now.g += dg * frames
      now.k += dk * frames
      now.m0 += d0 * frames
      now.m1 += d1 * frames
      now.m2 += d2 * frames
      this.#idle = false
    }
  }
}

function isUnity({ m0, m1, m2 }: SvfValues): boolean {
  return m0 === 1 && Math.abs(m1) < 1e-12 && Math.abs(m2) < 1e-12
}
