/** A value that others can watch. */
export class Signal<T> {
  readonly #watchers = new Set<() => void>()

  constructor(private current: T) {}

  get value(): T {
    return this.current
  }

  set(value: T): void {
    if (value === this.current) return
    this.current = value
    for (const watcher of this.#watchers) {
      try {
        watcher()
      } catch (error) {
        // One that fails keeps no other from being told; the error is still seen.
        queueMicrotask(() => {
          throw error
        })
      }
    }
  }

  /** Calls `watcher` after each change; the result ends that. */
  readonly watch = (watcher: () => void): (() => void) => {
    this.#watchers.add(watcher)
    return () => this.#watchers.delete(watcher)
  }

  /** {@link value} as a function, for hooks. */
  readonly read = (): T => this.current
}
