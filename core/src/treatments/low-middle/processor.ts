import { DelayLine } from '../../audio'
import { Convolver } from '../../filters'
import type { TreatmentProcessor } from '../kind'
import type { LowEndSource, LowMiddleDesign, LowMiddleParams } from './params'

/** How much of what the sides lose below goes to the middle. */
const LOWS: Readonly<Record<LowEndSource, number>> = { both: 0, turned: 1, left: 1, right: -1 }

/**
 * Filters the sides and holds the middle back by as much; a mono sound passes. What the sides lose below is what a low end of one side
 * adds to the middle, or what it replaces the middle's by where one side is turned.
 */
export class LowMiddleProcessor implements TreatmentProcessor<LowMiddleParams, LowMiddleDesign> {
  #sides: Convolver | null = null
  /** Over the middle, where its own low end is given up. */
  #middleHigh: Convolver | null = null
  /** What is told below as it is: the middle where no filter makes it late, the sides where their low end is wanted. */
  #held: DelayLine | null = null
  #taps = 0
  #key = ''
  #from: LowEndSource = 'both'
  readonly #rows: Float32Array[] = []
  #room = new Float32Array(0)

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
    const rows = from === 'left' || from === 'right' ? 2 : 1
    this.#held = new DelayLine(rows, (kernel.length - 1) / 2 + this.#sides.latency)
  }

  process(channels: readonly Float32Array[], frames: number): void {
    if (channels.length !== 2 || !this.#sides || !this.#held) return
    const [left, right] = channels
    for (let i = 0; i < frames; i++) {
      const mid = (left[i] + right[i]) / 2
      right[i] = (left[i] - right[i]) / 2
      left[i] = mid
    }
    const lows = LOWS[this.#from]
    if (this.#room.length < frames) this.#room = new Float32Array(frames)
    const held = this.#room.subarray(0, frames)
    let row = 0
    if (!this.#middleHigh) this.#rows[row++] = left
    if (lows !== 0) {
      held.set(right.subarray(0, frames))
      this.#rows[row] = held
    }
    this.#sides.process(right, 0, frames)
    this.#middleHigh?.process(left, 0, frames)
    this.#held.process(this.#rows, frames)
    for (let i = 0; i < frames; i++) {
      const side = right[i]
      const mid = lows === 0 ? left[i] : left[i] + lows * (held[i] - side)
      right[i] = mid - side
      left[i] = mid + side
    }
  }

  reset(): void {
    this.#sides?.reset()
    this.#middleHigh?.reset()
    this.#held?.reset()
  }

  dispose(): void {
    this.#sides?.dispose()
    this.#middleHigh?.dispose()
    this.#rows.length = 0
    this.#sides = null
    this.#middleHigh = null
  }
}
