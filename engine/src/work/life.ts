import { EngineError } from '../engine-error'

/** A worker that has given no sign for so long is taken for hung. Long work reports its progress all the while. */
const SILENCE_MS = 120_000
/** How long a worker may take to begin. */
const START_MS = 30_000
const LIFE_NAME = 'life'

/** The page's message by which a worker learns how to show that it lives. */
export interface LifeMessage {
  readonly kind: typeof LIFE_NAME
  readonly lock: string
}
/** The worker's answer, once it does. */
export const ALIVE = { kind: 'alive' } as const

let shown: Promise<void> = Promise.resolve()

/**
 * In a worker: holds a lock for as long as it lives. Whatever ends the worker releases the lock, which the page
 * notices; the worker itself is told by no event. True for the message that asks for it.
 */
export function showLife(message: { readonly kind: string }): boolean {
  if (message.kind !== LIFE_NAME) return false
  const { lock } = message as LifeMessage
  shown = new Promise((resolve) => {
    navigator.locks
      .request(lock, () => {
        self.postMessage(ALIVE)
        resolve()
        return new Promise<void>(() => {})
      })
      .catch(() => resolve())
  })
  return true
}

/** In a worker: its life shows, so that its end would be noticed. Work begins after that. */
export function lifeShown(): Promise<void> {
  return shown
}

/** A worker ended or hung under its work; the work itself may well succeed in another one. */
class WorkerEndError extends EngineError {}

/** Does work once more where a worker ended under it. */
export async function onceMore<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work()
  } catch (error) {
    if (error instanceof WorkerEndError) return work()
    throw error
  }
}

/** Watches over a worker from the page: tells once when it has ended or hangs. */
export class Life {
  readonly #lock = `sober-prism worker ${crypto.randomUUID()}`
  readonly #end = new AbortController()
  #timer: ReturnType<typeof setTimeout> | undefined
  /** Until it has shown its life, only the time it may take to begin counts. */
  #begun = false

  constructor(
    worker: Worker,
    private readonly onEnd: (error: EngineError) => void,
  ) {
    worker.postMessage({ kind: LIFE_NAME, lock: this.#lock } satisfies LifeMessage)
    this.#wait(START_MS)
  }

  /** True when a message was the worker's sign of life, and is done with. */
  hear(message: { readonly kind: string }): boolean {
    if (message.kind !== ALIVE.kind) return false
    this.#begun = true
    this.rest()
    // It is granted when the worker is gone.
    navigator.locks
      .request(this.#lock, { signal: this.#end.signal }, () => this.#tell('ended'))
      .catch(() => {})
    return true
  }

  /** From now on it must give a sign every so often. */
  work(): void {
    if (this.#begun) this.#wait(SILENCE_MS)
  }

  /** From now on it may be silent. */
  rest(): void {
    if (this.#begun) clearTimeout(this.#timer)
  }

  /** Nothing is told any more. */
  close(): void {
    clearTimeout(this.#timer)
    this.#end.abort()
  }

  #wait(ms: number): void {
    clearTimeout(this.#timer)
    this.#timer = setTimeout(() => this.#tell('stopped responding'), ms)
  }

  #tell(what: string): void {
    if (this.#end.signal.aborted) return
    this.close()
    this.onEnd(
      new WorkerEndError(`A background process ${what}. Retry; if it persists, reload the page.`),
    )
  }
}
