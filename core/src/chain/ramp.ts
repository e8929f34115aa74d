const RAMP_SECONDS = 0.015

/** A value that moves to its target in a straight line, so that gains change without a click. */
export class Ramp {
  #value: number
  #target: number
  #step = 0
  #left = 0

  constructor(
    value: number,
    private readonly seconds = RAMP_SECONDS,
  ) {
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
    this.#target = target
    this.#left = Math.max(1, Math.round(this.seconds * rateHz))
    this.#step = (target - this.#value) / this.#left
  }

  jumpTo(target: number): void {
    this.#target = target
    this.#value = target
    this.#left = 0
  }

  /** The value for the next frame. */
  next(): number {
    if (this.#left > 0) {
      this.#left--
      this.#value = this.#left === 0 ? this.#target : this.#value + this.#step
    }
    return this.#value
  }
}
