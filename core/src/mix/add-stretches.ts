import type { WasmHost } from '../wasm'
import { AddKernel } from './add-kernel'
import { type Addend, MAX_BLOCK_FRAMES } from './mixer'

/**
 * Adds to `out` the samples from `position`, less each channel's offset, times their gains.
 * @returns false when some of them were not at hand.
 */
export function addStretches(
  addends: readonly Addend[],
  position: number,
  out: Float32Array,
  frames: number,
): boolean {
  const views: Float32Array[] = []
  let complete = true
  const gains: number[] = []
  for (const { source, channel, offsetFrames, gain } of addends) {
    const at = position - offsetFrames
    if (gain === 0 || at >= source.frames || at + frames <= 0) continue
    const view = source.view(channel, at, frames)
    if (view) {
      views.push(view)
      gains.push(gain)
      continue
    }
    complete = source.read(channel, at, scratch, frames) && complete
    addOne(scratch, gain, out, frames)
  }
  if (kernel) {
    if (views.length > 0) kernel.add(views, gains, out, frames)
    return complete
  }
  let k = 0
  for (; k + 4 <= views.length; k += 4) addFour(views, gains, k, out, frames)
  for (; k < views.length; k++) addOne(views[k], gains[k], out, frames)
  return complete
}

let kernel: AddKernel | null = null

/** Compiles the adding in this realm, for long blocks; without it that is done in plain code. */
export function installAddKernel(wasm: WasmHost): void {
  kernel = new AddKernel(wasm)
}

/** For tests of what runs without it. */
export function removeAddKernel(): void {
  kernel = null
}

/** Adds a signal times a gain to `out`, which is as long. */
export function addScaled(signal: Float32Array, gain: number, out: Float32Array): void {
  if (!kernel) {
    addOne(signal, gain, out, out.length)
    return
  }
  for (let from = 0; from < out.length; from += MAX_BLOCK_FRAMES) {
    const to = Math.min(out.length, from + MAX_BLOCK_FRAMES)
    kernel.add([signal.subarray(from, to)], [gain], out.subarray(from, to), to - from)
  }
}

const scratch = new Float32Array(MAX_BLOCK_FRAMES)

function addOne(signal: Float32Array, gain: number, out: Float32Array, frames: number): void {
  for (let i = 0; i < frames; i++) out[i] += gain * signal[i]
}

/** Four signals at a time take a third of the time that one after another does. */
function addFour(
  views: readonly Float32Array[],
  gains: readonly number[],
  k: number,
  out: Float32Array,
  frames: number,
): void {
  const [a, b, c, d] = [views[k], views[k + 1], views[k + 2], views[k + 3]]
  const [ga, gb, gc, gd] = [gains[k], gains[k + 1], gains[k + 2], gains[k + 3]]
  for (let i = 0; i < frames; i++) out[i] += ga * a[i] + gb * b[i] + gc * c[i] + gd * d[i]
}
