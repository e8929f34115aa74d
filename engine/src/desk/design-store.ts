import type { Designer } from '@sober-prism/core/mix'
import { type AnyWorkings, workingsOf } from '@sober-prism/core/treatments'
import { errorSentence } from '../engine-error'
import { Signal } from '../signal'
import { toSharedArrays } from '../storage/results'
import type { WorkerPool } from '../work/worker-pool'

/** What treatments in linear or mixed phase cost a chain. */
export interface PhaseCost {
  readonly latencyFrames: number
  /** Strongest echo ahead of the sound, in dB relative to it; null where there is none. */
  readonly preEchoDb: number | null
}

interface Made {
  readonly params: unknown
  readonly design: unknown
}

/**
 * Designs of treatments, ready for the audio thread. Light ones are made on the spot, heavy ones in the worker
 * pool; until a new one is there, the treatment's last one stays in use.
 */
export class DesignStore {
  /** What treatments cost, by node and treatment; those without latency are not in it. */
  readonly costs = new Signal<ReadonlyMap<string, PhaseCost>>(new Map())
  readonly problem = new Signal<string | null>(null)
  /** The newest design of each treatment, and the values it was made for. */
  readonly #made = new Map<string, Made>()
  /** Values that are wanted, of treatments that are being designed. */
  readonly #wanted = new Map<string, unknown>()
  /** Designs by the values they were made for: several states of a session share most of them. */
  readonly #byParams = new WeakMap<object, { readonly design: unknown }>()
  /** Values whose design failed: they are not tried again. */
  readonly #failed = new WeakSet<object>()

  constructor(
    private readonly pool: Pick<WorkerPool, 'run'>,
    private readonly sampleRateHz: number,
    private readonly onReady: () => void,
  ) {}

  /** The design to use now; null while there is none yet. */
  readonly get: Designer = (name, params, treatment, node) => {
    const place = `${node} ${treatment}`
    const kind = workingsOf(name)
    const made = this.#made.get(place)
    if (made && made.params === params) return made.design
    const known = this.#byParams.get(params as object)
    if (known) return this.#put(place, kind, { params, design: known.design })
    if (!kind.isHeavy(params)) {
      this.#wanted.delete(place)
      return this.#put(place, kind, { params, design: kind.design(params, this.sampleRateHz) })
    }
    if (this.#failed.has(params as object)) return made?.design ?? null
    const busy = this.#wanted.has(place)
    this.#wanted.set(place, params)
    // One design at a time for each treatment: the newest wish is taken up when it is done.
    if (!busy) void this.#design(place, name, kind)
    return made?.design ?? null
  }

  #put(place: string, kind: AnyWorkings, made: Made): unknown {
    this.#made.set(place, made)
    this.#byParams.set(made.params as object, made)
    this.#showCost(place, kind, made)
    return made.design
  }

  async #design(place: string, name: string, kind: AnyWorkings): Promise<void> {
    const params = this.#wanted.get(place)
    try {
      const { sampleRateHz } = this
      const { design } = await this.pool.run('design', { kind: name, params, sampleRateHz })
      // Kernels go to the audio thread with every plan: in shared memory they are not copied each time.
      this.#put(place, kind, { params, design: toSharedArrays(design) })
      this.problem.set(null)
    } catch (error) {
      this.#failed.add(params as object)
      this.problem.set(`A treatment could not be prepared. ${errorSentence(error)}`)
    }
    const next = this.#wanted.get(place)
    if (next !== params && this.#wanted.has(place)) return this.#design(place, name, kind)
    this.#wanted.delete(place)
    this.onReady()
  }

  #showCost(place: string, kind: AnyWorkings, { params, design }: Made): void {
    const latencyFrames = kind.latency(params, design, 2)
    const known = this.costs.value.get(place)
    if (latencyFrames === (known?.latencyFrames ?? 0)) return
    const costs = new Map(this.costs.value)
    if (latencyFrames === 0) costs.delete(place)
    else costs.set(place, { latencyFrames, preEchoDb: preEchoOf(design) })
    this.costs.set(costs)
  }
}

/** The pre-echo that a design of FIR filters tells; other kinds have none to tell. */
function preEchoOf(design: unknown): number | null {
  const { fir } = (design ?? {}) as { fir?: { preEchoDb: number | null } | null }
  return fir?.preEchoDb ?? null
}
