import { isCancel } from '../engine-error'
import { ResultCache } from './result-cache'

/** Changes when the same input would give another result, so that older ones are not taken. */
const RESULT_VERSION = 4

/** Large results that are at hand at once: two states of a session of many tracks. */
const MOST_LARGE = 80

/** Keeps results from one time to the next. */
export interface ResultStore {
  load(key: string): Promise<unknown>
  keep(key: string, value: unknown): Promise<void>
}

/** Results by what they were computed from: at hand while the page is open, and in a store beyond that. */
export class KeptResults {
  readonly #cache = new ResultCache()
  readonly #large = new ResultCache(MOST_LARGE)

  /** @param store null keeps nothing beyond the page. */
  constructor(private readonly store: ResultStore | null) {}

  /** A kept result, or a new one; work that an older measurement gave up on is taken up again. */
  async get<T>(key: string, signal: AbortSignal, compute: () => Promise<T>): Promise<T> {
    return this.#get(this.#cache, key, signal, () => this.#stored(key, compute))
  }

  async #get<T>(
    cache: ResultCache,
    key: string,
    signal: AbortSignal,
    compute: () => Promise<T>,
  ): Promise<T> {
    for (;;) {
      try {
        return await cache.get(key, compute)
      } catch (error) {
        if (!isCancel(error) || signal.aborted) throw error
      }
    }
  }

  /** Like {@link KeptResults.get}, but not kept beyond the page: quick to compute, or large. */
  async atHand<T>(key: string, signal: AbortSignal, compute: () => Promise<T>): Promise<T> {
    return this.#get(this.#large, key, signal, compute)
  }

  async #stored<T>(key: string, compute: () => Promise<T>): Promise<T> {
    const storeKey = `${RESULT_VERSION} ${key}`
    const kept = await this.store?.load(storeKey)
    if (kept !== undefined) return kept as T
    const result = await compute()
    void this.store?.keep(storeKey, result)
    return result
  }
}
