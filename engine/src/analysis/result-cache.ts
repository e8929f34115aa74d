/** Results of pure computations by what they were computed from; the oldest go when it grows too large. */
export class ResultCache {
  readonly #results = new Map<string, Promise<unknown>>()

  constructor(private readonly most = 400) {}

  /** The result of a key, computed at most once while it is kept. Failures are not kept. */
  get<T>(key: string, compute: () => Promise<T>): Promise<T> {
    const present = this.#results.get(key) as Promise<T> | undefined
    if (present) {
      this.#results.delete(key)
      this.#results.set(key, present)
      return present
    }
    const result = compute()
    this.#results.set(key, result)
    result.catch(() => this.#results.delete(key))
    for (const oldest of this.#results.keys()) {
      if (this.#results.size <= this.most) break
      this.#results.delete(oldest)
    }
    return result
  }
}
