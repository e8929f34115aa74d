import { Convolver } from '../../filters'
import type { TreatmentProcessor } from '../kind'
import type { DrawnCurveDesign, DrawnCurveParams } from './params'

/** Runs the filter of a drawn curve over each channel. */
export class DrawnCurveProcessor implements TreatmentProcessor<DrawnCurveParams, DrawnCurveDesign> {
  #convolvers: Convolver[] = []
  #taps = 0
  #delay = 0
  #key = ''

  constructor(private readonly channels: number) {}

  get latency(): number {
    return this.#delay + (this.#convolvers[0]?.latency ?? 0)
  }

  get idle(): boolean {
    return this.#convolvers.length === 0
  }

  fits(_: DrawnCurveParams, { kernel, delay }: DrawnCurveDesign): boolean {
    return kernel.length === this.#taps && delay === this.#delay
  }

  set(params: DrawnCurveParams, design: DrawnCurveDesign): void {
    const { key, kernel, delay } = design
    if (key === this.#key) return
    this.#key = key
    if (this.fits(params, design)) {
      for (const convolver of this.#convolvers) convolver.set(kernel)
      return
    }
    this.dispose()
    this.#taps = kernel.length
    this.#delay = delay
    this.#convolvers = Array.from({ length: this.channels }, () => new Convolver(kernel))
  }

  process(channels: readonly Float32Array[], frames: number): void {
    for (let c = 0; c < channels.length; c++) this.#convolvers[c]?.process(channels[c], 0, frames)
  }

  reset(): void {
    for (const convolver of this.#convolvers) convolver.reset()
  }

  dispose(): void {
    for (const convolver of this.#convolvers) convolver.dispose()
    this.#convolvers = []
    this.#taps = 0
  }
}
