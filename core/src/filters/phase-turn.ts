import { kaiserWindow } from '../spectrum'
import { Convolver } from './convolver'

/** Frames of the Hilbert filter on each side, at 48 kHz: holds the turn down to 30 Hz. */
const HALF_AT_48K = 4095
const ATTENUATION_DB = 60

/**
 * Turns all frequencies of a channel by one constant phase: cos φ · x + sin φ · H{x}, with H the Hilbert
 * transform. Within 2 degrees from 30 Hz to 20 kHz. `degrees` above zero is a phase that comes later, as
 * of a signal that lags.
 */
export class PhaseTurn {
  readonly #half: number
  readonly #convolver: Convolver
  /** Frames by which the output is late. */
  readonly latency: number

  constructor(rateHz: number, degrees: number) {
    this.#half = Math.round((HALF_AT_48K * rateHz) / 48000) | 1
    this.#convolver = new Convolver(turnKernel(this.#half, degrees))
    this.latency = this.#half + this.#convolver.latency
  }

  /** Moves to another angle without a click. */
  set(degrees: number): void {
    this.#convolver.set(turnKernel(this.#half, degrees))
  }

  process(channel: Float32Array, frames: number): void {
    this.#convolver.process(channel, 0, frames)
  }

  reset(): void {
    this.#convolver.reset()
  }
}

/** The turn as a kernel of 2·half + 1 taps, centred. */
export function turnKernel(half: number, degrees: number): Float32Array {
  const angle = (degrees * Math.PI) / 180
  const window = kaiserWindow(2 * half + 1, ATTENUATION_DB)
  const taps = new Float32Array(2 * half + 1)
  for (let n = 1; n <= half; n += 2) {
    const value = (2 / (Math.PI * n)) * window[half + n] * Math.sin(angle)
    taps[half + n] = value
    taps[half - n] = -value
  }
  taps[half] = Math.cos(angle)
  return taps
}
