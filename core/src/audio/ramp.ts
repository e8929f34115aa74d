import { smoothStep } from './smooth-step'

const RAMP_SECONDS = 0.015

/** A value that moves to its target along a smooth curve, so that gains change without a click. */
export class Ramp {
  #from: number
  #value: number
  #target: number
  #length = 0
  #left = 0

  constructor(
    value: number,
    private readonly seconds = RAMP_SECONDS,
  ) {
    this.#from = value
    this.#value = value
    this.#target = value
  }

  get value(): number {
    return this.#value
  }

  get target(): number {
    return this.#target
  }

  /** True when the value rests at its target. */
  get settled(): boolean {
    return this.#left === 0
  }

  moveTo(target: number, rateHz: number): void {
    if (target === this.#target) return
    this.#from = this.#value
    this.#target = target
    this.#length = Math.max(1, Math.round(this.seconds * rateHz))
    this.#left = this.#length
  }

  jumpTo(target: number): void {
    this.#target = target
    this.#value = target
    this.#left = 0
  }

  /** Writes `from` times the value into `to`, frame by frame; they may be the same. */
  applyTo(from: Float32Array, to: Float32Array, frames: number): void {
    if (this.#left === 0) {
      const value = this.#value
      for (let i = 0; i < frames; i++) to[i] = from[i] * value
      return
    }
    for (let i = 0; i < frames; i++) to[i] = from[i] * this.next()
  }

  /** Adds `from` times the value times a gain to `sum`, frame by frame. */
  addTo(sum: Float32Array, from: Float32Array, gain: number, frames: number): void {
    if (this.#left === 0) {
      const value = this.#value * gain
      for (let i = 0; i < frames; i++) sum[i] += from[i] * value
      return
    }
    for (let i = 0; i < frames; i++) sum[i] += from[i] * this.next() * gain
  }

  /** The value for the next frame. */
  next(): number {
    if (this.#left > 0) {
      this.#left--
      this.#value =
        this.#left === 0
          ? this.#target
          : this.#from + (this.#target - this.#from) * smoothStep(1 - this.#left / this.#length)
    }
    return this.#value
  }
}
