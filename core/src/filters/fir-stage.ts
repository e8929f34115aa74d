import { Convolver } from './convolver'
import type { FirGroup, PhasePlan } from './phase-modes'

/** Runs the FIR groups of a phase plan over one or two channels, in place. */
export class FirStage {
  #groups: { basis: FirGroup['basis']; convolvers: Convolver[]; taps: number }[] = []
  #latency = 0
  #key = ''
  readonly #channels: number

  constructor(channels: number) {
    this.#channels = channels
  }

  get latency(): number {
    return this.#latency
  }

  /** True when there is no kernel to apply. */
  get idle(): boolean {
    return this.#groups.length === 0
  }

  /** True when groups can take the place of the present ones without a change of latency. */
  fits(plan: PhasePlan | null): boolean {
    const groups = plan?.firs ?? []
    return (
      groups.length === this.#groups.length &&
      groups.every(
        (g, i) => g.basis === this.#groups[i].basis && g.kernels[0].length === this.#groups[i].taps,
      )
    )
  }

  /** Takes over a plan: gliding where it fits, from silence where the latency changes. */
  set(plan: PhasePlan | null): void {
    const key = plan?.key ?? ''
    if (key === this.#key) return
    this.#key = key
    const groups = plan?.firs ?? []
    if (this.fits(plan)) {
      groups.forEach(({ kernels }, g) => {
        this.#groups[g].convolvers.forEach((convolver, c) => {
          convolver.set(kernels[c])
        })
      })
      return
    }
    this.dispose()
    this.#groups = groups.map(({ basis, kernels }) => ({
      basis,
      taps: kernels[0].length,
      convolvers: Array.from({ length: this.#channels }, (_, c) => new Convolver(kernels[c])),
    }))
    this.#latency = this.#groups.reduce(
      (sum, g) => sum + (g.taps - 1) / 2 + (g.convolvers[0]?.latency ?? 0),
      0,
    )
  }

  reset(): void {
    for (const { convolvers } of this.#groups) for (const c of convolvers) c.reset()
  }

  /** Gives the memory of its convolvers back. */
  dispose(): void {
    for (const { convolvers } of this.#groups) for (const c of convolvers) c.dispose()
    this.#groups = []
  }

  process(channels: readonly Float32Array[], frames: number): void {
    for (let g = 0; g < this.#groups.length; g++) {
      const { basis, convolvers } = this.#groups[g]
      const turned = basis === 'mid-side' && channels.length === 2
      if (turned) toMidSide(channels, frames)
      for (let c = 0; c < channels.length; c++) convolvers[c].process(channels[c], 0, frames)
      if (turned) toLeftRight(channels, frames)
    }
  }
}

function toMidSide([left, right]: readonly Float32Array[], frames: number): void {
  for (let i = 0; i < frames; i++) {
    const mid = (left[i] + right[i]) / 2
    right[i] = (left[i] - right[i]) / 2
    left[i] = mid
  }
}

function toLeftRight([mid, side]: readonly Float32Array[], frames: number): void {
  for (let i = 0; i < frames; i++) {
    const left = mid[i] + side[i]
    side[i] = mid[i] - side[i]
    mid[i] = left
  }
}
