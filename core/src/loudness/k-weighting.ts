import { type Biquad, sectionsDb } from '../filters'
import type { WasmHost } from '../wasm'
import { EnergyKernel } from './energy-kernel'

/** Coefficients printed in BS.1770-5, tables 1 and 2, for 48 kHz. */
const STAGE_1_48K: Biquad = {
  b0: 1.53512485958697,
  b1: -2.69169618940638,
  b2: 1.19839281085285,
  a1: -1.69065929318241,
  a2: 0.73248077421585,
}
const STAGE_2_48K: Biquad = { b0: 1, b1: -2, b2: 1, a1: -1.99004745483398, a2: 0.99007225036621 }

/**
 * The two K-weighting sections of BS.1770-5 at a rate. At 48 kHz the printed coefficients; elsewhere
 * the analogue filter behind them (bilinear inverse) is taken to the new rate.
 */
export function kWeighting(rateHz: number): readonly [Biquad, Biquad] {
  if (rateHz === 48000) return [STAGE_1_48K, STAGE_2_48K]
  return [rerate(STAGE_1_48K, rateHz), rerate(STAGE_2_48K, rateHz)]
}

/** Gain of the K-weighting at a frequency, in dB. */
export function kWeightingDb(hz: number): number {
  return sectionsDb(kWeighting(48000), hz, 48000)
}

/** Undoes the bilinear transform at 48 kHz and applies it at the new rate, warped to keep the corner. */
function rerate(section: Biquad, rateHz: number): Biquad {
  const [n0, n1, n2] = toAnalogue(section.b0, section.b1, section.b2)
  const [d0, d1, d2] = toAnalogue(1, section.a1, section.a2)
  // In s normalised to tan(w/2): the corner sits at sqrt(d0/d2).
  const corner48 = Math.sqrt(d0 / d2)
  const cornerHz = (Math.atan(corner48) * 48000) / Math.PI
  const scale = corner48 / Math.tan((Math.PI * cornerHz) / rateHz)
  const [b0, b1, b2] = toDigital(n0, n1 * scale, n2 * scale * scale)
  const [a0, a1, a2] = toDigital(d0, d1 * scale, d2 * scale * scale)
  return { b0: b0 / a0, b1: b1 / a0, b2: b2 / a0, a1: a1 / a0, a2: a2 / a0 }
}

/** c0 + c1 z⁻¹ + c2 z⁻² to k0 + k1 s + k2 s² under s = (1 - z⁻¹)/(1 + z⁻¹). */
function toAnalogue(c0: number, c1: number, c2: number): [number, number, number] {
  return [(c0 + c1 + c2) / 4, (c0 - c2) / 2, (c0 - c1 + c2) / 4]
}

function toDigital(k0: number, k1: number, k2: number): [number, number, number] {
  return [k0 + k1 + k2, 2 * k0 - 2 * k2, k0 - k1 + k2]
}

let kernel: EnergyKernel | null = null

/** Compiles the weighting of stereo sound in this realm; without it that is done in plain code. */
export function installEnergyKernel(wasm: WasmHost): void {
  kernel = new EnergyKernel(wasm)
}

/** For tests of what runs without it. */
export function removeEnergyKernel(): void {
  kernel = null
}

/** K-weighting of one or two channels that runs on from block to block. */
export class KFilter {
  readonly #sections: readonly [Biquad, Biquad]
  readonly #states: readonly Float64Array[]

  constructor(rateHz: number, channels: number) {
    this.#sections = kWeighting(rateHz)
    this.#states = Array.from({ length: channels }, () => new Float64Array(4))
  }

  /** Sum of squares of the weighted samples `from` to `to`, over all channels. */
  energy(channels: readonly Float32Array[], from: number, to: number): number {
    const [s, t] = this.#sections
    const states = this.#states
    if (states.length === 2 && to > from) {
      return kernel
        ? kernel.energy(channels, from, to, this.#sections, states)
        : stereoEnergy(channels, from, to, s, t, states)
    }
    return states.reduce(
      (sum, state, c) => sum + weightedEnergy(channels[c], from, to, s, t, state),
      0,
    )
  }
}

function weightedEnergy(
  channel: Float32Array,
  from: number,
  to: number,
  s: Biquad,
  t: Biquad,
  state: Float64Array,
): number {
  const { b0: s0, b1: s1, b2: s2, a1: sa1, a2: sa2 } = s
  const { b0: t0, b1: t1, b2: t2, a1: ta1, a2: ta2 } = t
  let [u1, u2, v1, v2] = state
  let sum = 0
  for (let i = from; i < to; i++) {
    const x = channel[i]
    const y = s0 * x + u1
    u1 = s1 * x - sa1 * y + u2
    u2 = s2 * x - sa2 * y
    const z = t0 * y + v1
    v1 = t1 * y - ta1 * z + v2
    v2 = t2 * y - ta2 * z
    sum += z * z
  }
  state[0] = u1
  state[1] = u2
  state[2] = v1
  state[3] = v2
  return sum
}

/** Two channels side by side: each step of one waits for its last, and the other's fills the time. */
function stereoEnergy(
  [left, right]: readonly Float32Array[],
  from: number,
  to: number,
  s: Biquad,
  t: Biquad,
  [stateL, stateR]: readonly Float64Array[],
): number {
  const { b0: s0, b1: s1, b2: s2, a1: sa1, a2: sa2 } = s
  const { b0: t0, b1: t1, b2: t2, a1: ta1, a2: ta2 } = t
  let [lu1, lu2, lv1, lv2] = stateL
  let [ru1, ru2, rv1, rv2] = stateR
  let sumL = 0
  let sumR = 0
  for (let i = from; i < to; i++) {
    const xl = left[i]
    const xr = right[i]
    const yl = s0 * xl + lu1
    const yr = s0 * xr + ru1
    lu1 = s1 * xl - sa1 * yl + lu2
    ru1 = s1 * xr - sa1 * yr + ru2
    lu2 = s2 * xl - sa2 * yl
    ru2 = s2 * xr - sa2 * yr
    const zl = t0 * yl + lv1
    const zr = t0 * yr + rv1
    lv1 = t1 * yl - ta1 * zl + lv2
    rv1 = t1 * yr - ta1 * zr + rv2
    lv2 = t2 * yl - ta2 * zl
    rv2 = t2 * yr - ta2 * zr
    sumL += zl * zl
    sumR += zr * zr
  }
  stateL.set([lu1, lu2, lv1, lv2])
  stateR.set([ru1, ru2, rv1, rv2])
  return sumL + sumR
}
