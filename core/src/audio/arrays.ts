import type { WasmHost } from '../wasm'
import { ArrayKernel } from './array-kernel'

let kernel: ArrayKernel | null = null

/** Compiles loops over long arrays in this realm; without them they run in plain code. */
export function installArrayKernel(wasm: WasmHost): void {
  kernel = new ArrayKernel(wasm)
}

/** For tests of what runs without it. */
export function removeArrayKernel(): void {
  kernel = null
}

/** Middle, (L + R)/2, and side, (L - R)/2, of two channels into arrays that are as long. */
export function splitStereo(
  left: Float32Array,
  right: Float32Array,
  mid: Float32Array,
  side: Float32Array,
): void {
  if (kernel) {
    kernel.split(left, right, mid, side)
    return
  }
  for (let i = 0; i < left.length; i++) {
    const [l, r] = [left[i], right[i]]
    mid[i] = (l + r) / 2
    side[i] = (l - r) / 2
  }
}

const STEP_16 = 1 / 32768

/** 16-bit samples as parts of full scale. @param from first sample; @param out as many as it holds. */
export function fromInt16(samples: Int16Array, from: number, out: Float32Array): void {
  if (kernel) kernel.widen(samples, from, out)
  else for (let i = 0; i < out.length; i++) out[i] = samples[from + i] * STEP_16
}

/**
 * Half of the rate, by (1 2 1)/4: even in the lowest octaves, and what would fold down on them is 45 dB and more below.
 * @param start first sample that counts; @param frames of the result.
 */
export function halveSoftly(
  signal: Float32Array,
  start: number,
  out: Float32Array,
  frames: number,
): void {
  if (kernel) {
    kernel.halve(signal, start, out, frames)
    return
  }
  for (let i = 0, at = start; i < frames; i++, at += 2) {
    out[i] = 0.25 * (signal[at] + signal[at + 2]) + 0.5 * signal[at + 1]
  }
}
