import { isCancel } from '../engine-error'
import { ResultCache } from './result-cache'

/** What a node's work is given besides its inputs. */
export interface NodeJob {
  readonly signal: AbortSignal
  readonly onProgress: (share: number) => void
}

/**
 * One computation, declared by what it is computed from. Its key follows from its name, its version, its settings
 * and the keys of all its inputs: nothing else may change its result.
 */
export interface AnalysisNode<T> {
  readonly key: string
  readonly label: string
  readonly keep: Keep
  run(job: NodeJob): Promise<T>
}

/** Where a result is kept: in the browser's storage, for as long as the page is open, or not at all. */
type Keep = 'stored' | 'at-hand' | 'never'

/** What a kind of node is; declared once, beside the code that its `version` belongs to. */
export interface NodeKind<Settings, Inputs extends readonly unknown[], Result> {
  readonly name: string
  /** To be raised when the same settings and inputs would give another result. */
  readonly version: number
  /** What is being done, for people. */
  readonly label: string
  readonly keep: Keep
  run(inputs: Inputs, settings: Settings, job: NodeJob): Promise<Result>
}

type NodesOf<Inputs extends readonly unknown[]> = {
  readonly [I in keyof Inputs]: AnalysisNode<Inputs[I]>
}

/** Keeps results from one time to the next. */
export interface ResultStore {
  load(key: string): Promise<unknown>
  keep(key: string, value: unknown): Promise<void>
  /** Notes that results are in use. */
  touch(keys: readonly string[]): Promise<void>
}

/** Large results that are at hand at once, in bytes. */
const AT_HAND_BYTES = 96e6
/** Small ones that are kept in memory besides storage. */
const MOST_STORED = 400

/** Runs nodes: each at most once for a key, its inputs first, with progress, cancel and results that are kept. */
export class Scheduler {
  readonly #stored = new ResultCache(MOST_STORED, AT_HAND_BYTES)
  /** Keys that were asked for since the last {@link settle}. */
  readonly #used = new Set<string>()
  readonly #atHand = new ResultCache(MOST_STORED, AT_HAND_BYTES)

  /** @param store null keeps nothing beyond the page. */
  constructor(private readonly store: ResultStore | null) {}

  /** Declares a node. `settings` and the inputs' keys decide its key: they must be plain values. */
  node<S, I extends readonly unknown[], R>(
    kind: NodeKind<S, I, R>,
    settings: S,
    inputs: NodesOf<I>,
    /** What the work needs besides, and what cannot change its result. */
    keySettings: unknown = settings,
  ): AnalysisNode<R> {
    const list = inputs as readonly AnalysisNode<unknown>[]
    const key = `${kind.name} ${kind.version} ${hashOf([keySettings, list.map((n) => n.key)])}`
    return {
      key,
      label: kind.label,
      keep: kind.keep,
      run: async (job) => {
        const quiet = { ...job, onProgress: () => {} }
        const values = await Promise.all(list.map((n) => this.get(n, quiet)))
        job.signal.throwIfAborted()
        return kind.run(values as unknown as I, settings, job)
      },
    }
  }

  /** A node's result: kept, under way, or computed now. Work that an older request gave up on is taken up again. */
  async get<T>(node: AnalysisNode<T>, job: NodeJob): Promise<T> {
    if (node.keep === 'never') return node.run(job)
    if (node.keep === 'stored') this.#used.add(node.key)
    const cache = node.keep === 'stored' ? this.#stored : this.#atHand
    for (;;) {
      try {
        return await cache.get(node.key, () =>
          node.keep === 'stored' ? this.#fromStore(node, job) : node.run(job),
        )
      } catch (error) {
        if (!isCancel(error) || job.signal.aborted) throw error
      }
    }
  }

  /** All that a state of a session needs has been asked for: its results outlast those of states before. */
  async settle(): Promise<void> {
    const used = [...this.#used]
    this.#used.clear()
    await this.store?.touch(used)
  }

  async #fromStore<T>(node: AnalysisNode<T>, job: NodeJob): Promise<T> {
    const kept = await this.store?.load(node.key)
    if (kept !== undefined) return kept as T
    const result = await node.run(job)
    void this.store?.keep(node.key, result)
    return result
  }
}

/** A short name of a plain value: 106 bits of it, by two rounds of cyrb53-like mixing. */
export function hashOf(value: unknown): string {
  const text = JSON.stringify(value)
  return [1, 2].map((seed) => mix(text, seed)).join('')
}

function mix(text: string, seed: number): string {
  let a = 0xdeadbeef ^ seed
  let b = 0x41c6ce57 ^ seed
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i)
    a = Math.imul(a ^ c, 2654435761)
    b = Math.imul(b ^ c, 1597334677)
  }
  a = Math.imul(a ^ (a >>> 16), 2246822507) ^ Math.imul(b ^ (b >>> 13), 3266489909)
  b = Math.imul(b ^ (b >>> 16), 2246822507) ^ Math.imul(a ^ (a >>> 13), 3266489909)
  return [a, b].map((n) => (n >>> 0).toString(16).padStart(8, '0')).join('')
}
