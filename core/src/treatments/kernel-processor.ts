import { Convolver, partitionFor } from '../filters'
import type { TreatmentProcessor, TreatmentWorkings } from './kind'

/** One filter, ready-made. */
export interface KernelDesign {
  /** What it was made of: designs of one key are the same. */
  readonly key: string
  readonly kernel: Float32Array
  /** Frames by which the kernel itself is late. */
  readonly delay: number
}

/** Runs one long filter over each channel. */
class KernelProcessor implements TreatmentProcessor<unknown, KernelDesign> {
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

  fits(_: unknown, { kernel, delay }: KernelDesign): boolean {
    return kernel.length === this.#taps && delay === this.#delay
  }

  set(params: unknown, design: KernelDesign): void {
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

/** The workings of kinds that are one long filter, but for its design. */
export const kernelWorkings: Omit<TreatmentWorkings<unknown, KernelDesign>, 'design'> = {
  isHeavy: () => true,
  latency: (_, { kernel, delay }) => delay + partitionFor(kernel.length),
  make: (_, channels) => new KernelProcessor(channels),
  response: (_, { kernel, delay }) => ({
    sections: [],
    kernels: [kernel],
    latency: delay,
    sign: 1,
    delayFrames: 0,
  }),
}
