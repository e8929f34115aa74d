import type { PhasePlan } from '@sober-prism/core/filters'
import { type Chain, STAGES } from '@sober-prism/core/session'
import { Signal } from '../signal'
import { toShared } from '../storage/samples'
import type { WorkerPool } from '../work/worker-pool'

/** What linear or mixed phase costs a chain. */
export interface PhaseCost {
  readonly latencyFrames: number
  /** Strongest echo ahead of the sound, in dB relative to it. */
  readonly preEchoDb: number | null
}

/**
 * FIR kernels of chains in linear or mixed phase, designed in the worker pool. Until a new one is there,
 * the chain's last one stays in use.
 */
export class KernelStore {
  /** What phase modes cost, by owner; those without latency are not in it. */
  readonly costs = new Signal<ReadonlyMap<string, PhaseCost>>(new Map())
  readonly #pool: WorkerPool
  readonly #rateHz: number
  readonly #onReady: () => void
  /** The newest kernels of each owner, and what they were made for. */
  readonly #ready = new Map<string, { key: string; kernels: PhasePlan | null }>()
  readonly #wanted = new Map<string, string>()

  constructor(pool: WorkerPool, rateHz: number, onReady: () => void) {
    this.#pool = pool
    this.#rateHz = rateHz
    this.#onReady = onReady
  }

  /** The kernels to use now for an owner's chain; asks for better ones where they are out of date. */
  get(chain: Chain, owner: string): PhasePlan | null {
    if (chain.phase === 'minimum') {
      if (this.#ready.delete(owner)) this.#showCosts()
      this.#wanted.delete(owner)
      return null
    }
    const key = JSON.stringify([chain.phase, ...STAGES.map((s) => chain[s])])
    const ready = this.#ready.get(owner)
    if (ready?.key === key) return ready.kernels
    if (this.#wanted.get(owner) !== key) {
      const busy = this.#wanted.has(owner)
      this.#wanted.set(owner, key)
      // One design at a time per owner: the newest wish is taken up when it is done.
      if (!busy) void this.#design(chain, owner, key)
    }
    return ready?.kernels ?? null
  }

  async #design(chain: Chain, owner: string, key: string): Promise<void> {
    const { kernels } = await this.#pool.run('kernels', { chain, sampleRateHz: this.#rateHz })
    if (!this.#wanted.has(owner)) return
    this.#ready.set(owner, { key, kernels: kernels && inSharedMemory(kernels) })
    this.#wanted.delete(owner)
    this.#showCosts()
    this.#onReady()
  }

  #showCosts(): void {
    const costs = new Map<string, PhaseCost>()
    for (const [owner, { kernels }] of this.#ready) {
      if (!kernels) continue
      costs.set(owner, { latencyFrames: kernels.latency, preEchoDb: kernels.preEchoDb })
    }
    this.costs.set(costs)
  }
}

/** Kernels go to the audio thread with every plan: in shared memory they are not copied each time. */
function inSharedMemory(plan: PhasePlan): PhasePlan {
  const firs = plan.firs.map(({ basis, kernels }) => {
    const [one, two] = toShared(kernels)
    return { basis, kernels: [one, two] as const }
  })
  return { ...plan, firs }
}
