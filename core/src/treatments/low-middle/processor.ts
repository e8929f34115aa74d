import { DelayLine } from '../../audio'
import { Convolver } from '../../filters'
import type { TreatmentProcessor } from '../kind'
import type { LowMiddleDesign, LowMiddleParams } from './params'

/** Filters the sides and holds the middle back by as much; a mono sound passes. */
export class LowMiddleProcessor implements TreatmentProcessor<LowMiddleParams, LowMiddleDesign> {
  #sides: Convolver | null = null
  #middle: DelayLine | null = null
  #taps = 0
  #key = ''
  readonly #midRow: Float32Array[] = []

  constructor(private readonly channels: number) {}

  get latency(): number {
    return this.#middle?.frames ?? 0
  }

  get idle(): boolean {
    return this.channels === 1
  }

  fits(_: LowMiddleParams, { kernel }: LowMiddleDesign): boolean {
    return this.channels === 1 || kernel.length === this.#taps
  }

  set(_: LowMiddleParams, { key, kernel }: LowMiddleDesign): void {
    if (this.channels === 1 || key === this.#key) return
    this.#key = key
    if (this.#sides && kernel.length === this.#taps) {
      this.#sides.set(kernel)
      return
    }
    this.dispose()
    this.#taps = kernel.length
    this.#sides = new Convolver(kernel)
    this.#middle = new DelayLine(1, (kernel.length - 1) / 2 + this.#sides.latency)
  }

  process(channels: readonly Float32Array[], frames: number): void {
    if (channels.length !== 2 || !this.#sides || !this.#middle) return
    const [left, right] = channels
    for (let i = 0; i < frames; i++) {
      const mid = (left[i] + right[i]) / 2
      right[i] = (left[i] - right[i]) / 2
      left[i] = mid
    }
    this.#midRow[0] = left
    this.#middle.process(this.#midRow, frames)
    this.#sides.process(right, 0, frames)
    for (let i = 0; i < frames; i++) {
      const side = right[i]
      right[i] = left[i] - side
      left[i] += side
    }
  }

  reset(): void {
    this.#sides?.reset()
    this.#middle?.reset()
  }

  dispose(): void {
    this.#sides?.dispose()
    this.#sides = null
  }
}
