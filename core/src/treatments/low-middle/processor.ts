import { DelayLine } from '../../audio'
import { Convolver } from '../../filters'
import type { TreatmentProcessor } from '../kind'
import type { LowEndSource, LowMiddleDesign, LowMiddleParams } from './params'

/**
 * Filters the sides and holds the middle back by as much; a mono sound passes. What the sides lose below is what a low end of one side
 * adds to the middle, or what it replaces the middle's by where one side is turned.
 */
export class LowMiddleProcessor implements TreatmentProcessor<LowMiddleParams, LowMiddleDesign> {
  #sides: Convolver | null = null
  /** Over the middle, where its own low end is given up. */
  #middleHigh: Convolver | null = null
  /** Middle and sides, as they are. */
  #held: DelayLine | null = null
  #taps = 0
  #key = ''
  #from: LowEndSource = 'both'
  readonly #rows: Float32Array[] = []
  #room = new Float32Array(0)
  #quiet = new Float32Array(0)

  constructor(private readonly channels: number) {}

  get latency(): number {
    return this.#held?.frames ?? 0
  }

  get idle(): boolean {
    return this.channels === 1
  }

  fits({ from }: LowMiddleParams, { kernel }: LowMiddleDesign): boolean {
    if (this.channels === 1) return true
    return kernel.length === this.#taps && from === this.#from
  }

  set({ from }: LowMiddleParams, { key, kernel }: LowMiddleDesign): void {
    if (this.channels === 1 || (key === this.#key && from === this.#from)) return
    this.#key = key
    if (this.#sides && kernel.length === this.#taps && from === this.#from) {
      this.#sides.set(kernel)
      this.#middleHigh?.set(kernel)
      return
    }
    this.dispose()
    this.#taps = kernel.length
    this.#from = from
    this.#sides = new Convolver(kernel)
    if (from === 'turned') this.#middleHigh = new Convolver(kernel)
    this.#held = new DelayLine(2, (kernel.length - 1) / 2 + this.#sides.latency)
  }

  process(channels: readonly Float32Array[], frames: number): void {
    if (channels.length !== 2 || !this.#sides || !this.#held) return
    const [left, right] = channels
    for (let i = 0; i < frames; i++) {
      const mid = (left[i] + right[i]) / 2
      right[i] = (left[i] - right[i]) / 2
      left[i] = mid
    }
    if (this.#room.length < frames) this.#room = new Float32Array(frames)
    const held = this.#room.subarray(0, frames)
    held.set(right.subarray(0, frames))
    this.#sides.process(right, 0, frames)
    this.#middleHigh?.process(left, 0, frames)
    // The middle is late as it is, but where its convolver does that; the sides are, to tell what they lost.
    this.#rows[0] = this.#middleHigh ? this.#silence(frames) : left
    this.#rows[1] = held
    this.#held.process(this.#rows, frames)
    const lows = { both: 0, turned: 1, left: 1, right: -1 }[this.#from]
    for (let i = 0; i < frames; i++) {
      const side = right[i]
      const mid = left[i] + lows * (held[i] - side)
      right[i] = mid - side
      left[i] = mid + side
    }
  }

  #silence(frames: number): Float32Array {
    if (this.#quiet.length < frames) this.#quiet = new Float32Array(frames)
    return this.#quiet.subarray(0, frames).fill(0)
  }

  reset(): void {
    this.#sides?.reset()
    this.#middleHigh?.reset()
    this.#held?.reset()
  }

  dispose(): void {
    this.#sides?.dispose()
    this.#middleHigh?.dispose()
    this.#sides = null
    this.#middleHigh = null
  }
}
