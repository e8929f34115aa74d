/**
 * Results of pure computations by what they were computed from; the oldest go when they become too many or too
 * large.
 */
export class ResultCache {
  readonly #results = new Map<string, { result: Promise<unknown>; bytes: number }>()
  #bytes = 0

  constructor(
    private readonly most = 400,
    private readonly mostBytes = Number.POSITIVE_INFINITY,
  ) {}

  /** The result of a key, computed at most once while it is kept. Failures are not kept. */
  get<T>(key: string, compute: () => Promise<T>): Promise<T> {
    const present = this.#results.get(key)
    if (present) {
      this.#results.delete(key)
      this.#results.set(key, present)
      return present.result as Promise<T>
    }
    const result = compute()
    const entry = { result, bytes: 0 }
    this.#results.set(key, entry)
    result.then(
      (value) => {
        if (this.#results.get(key) !== entry) return
        entry.bytes = bytesOf(value)
        this.#bytes += entry.bytes
        this.#shrink(key)
      },
      () => {
        if (this.#results.get(key) === entry) this.#results.delete(key)
      },
    )
    this.#shrink(key)
    return result
  }

  #shrink(newest: string): void {
    for (const [oldest, { bytes }] of this.#results) {
      if (this.#results.size <= this.most && this.#bytes <= this.mostBytes) return
      if (oldest === newest) continue
      this.#results.delete(oldest)
      this.#bytes -= bytes
    }
  }
}

/** Bytes of the arrays in a value. */
function bytesOf(value: unknown): number {
  if (ArrayBuffer.isView(value)) return value.byteLength
  if (typeof value !== 'object' || value === null) return 0
  return Object.values(value).reduce<number>((sum, v) => sum + bytesOf(v), 0)
}
