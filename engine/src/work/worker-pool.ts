import { EngineError } from '../engine-error'
import { pffftBytes } from '../pffft-bytes'
import type { FromWorker, TaskName, Tasks, ToWorker } from './tasks'

interface Job {
  readonly name: TaskName
  readonly input: unknown
  readonly signal: AbortSignal | undefined
  readonly queueSignal: AbortSignal | undefined
  readonly onProgress: (share: number) => void
  readonly first: boolean
  readonly resolve: (output: never) => void
  readonly reject: (error: unknown) => void
}

/** Options of a piece of work. */
export interface RunOptions {
  /** Ends the work at once, wherever it is. */
  readonly signal?: AbortSignal
  /** Gives the work up while it still waits; once begun it is finished. */
  readonly queueSignal?: AbortSignal
  readonly onProgress?: (share: number) => void
  /** Goes before what can wait. */
  readonly first?: boolean
}

/** Runs tasks on a few workers. Cancelling a running task ends its worker and starts a fresh one. */
export class WorkerPool {
  readonly #size: number
  readonly #idle: Worker[] = []
  readonly #queue: Job[] = []
  readonly #all = new Set<Worker>()
  #workers = 0

  constructor(size = Math.max(2, Math.min(8, navigator.hardwareConcurrency || 2))) {
    this.#size = size
  }

  get size(): number {
    return this.#size
  }

  run<N extends TaskName>(
    name: N,
    input: Tasks[N]['in'],
    { signal, queueSignal, onProgress = () => {}, first = false }: RunOptions = {},
  ): Promise<Tasks[N]['out']> {
    return new Promise((resolve, reject) => {
      const job: Job = { name, input, signal, queueSignal, onProgress, first, resolve, reject }
      const waiting = first ? this.#queue.findIndex((j) => !j.first) : -1
      this.#queue.splice(waiting < 0 ? this.#queue.length : waiting, 0, job)
      void this.#next()
    })
  }

  /** Ends all workers; work under way is left unanswered. */
  close(): void {
    this.#queue.length = 0
    for (const worker of this.#all) worker.terminate()
    this.#all.clear()
  }

  async #next(): Promise<void> {
    const job = this.#queue[0]
    if (!job) return
    const given = [job.signal, job.queueSignal].find((s) => s?.aborted)
    if (given) {
      this.#queue.shift()
      job.reject(given.reason)
      return this.#next()
    }
    const worker = this.#idle.pop() ?? this.#hire()
    if (!worker) return
    this.#queue.shift()
    this.#assign(worker, job)
    return this.#next()
  }

  #hire(): Worker | null {
    if (this.#workers >= this.#size) return null
    this.#workers++
    const worker = new Worker(new URL('./task.worker.ts', import.meta.url), { type: 'module' })
    this.#all.add(worker)
    return worker
  }

  readonly #started = new WeakSet<Worker>()

  #assign(worker: Worker, job: Job): void {
    const finish = () => {
      worker.onmessage = null
      worker.onerror = null
      job.signal?.removeEventListener('abort', abort)
      void this.#next()
    }
    const abort = () => {
      worker.terminate()
      this.#all.delete(worker)
      this.#workers--
      finish()
      job.reject(job.signal?.reason)
    }
    job.signal?.addEventListener('abort', abort)
    worker.onmessage = (event: MessageEvent<FromWorker>) => {
      const message = event.data
      if (message.kind === 'progress') return job.onProgress(message.share)
      this.#idle.push(worker)
      finish()
      if (message.kind === 'done') job.resolve(message.output as never)
      else job.reject(new EngineError(`The computation stopped: ${message.message}.`))
    }
    worker.onerror = (event) => {
      worker.terminate()
      this.#all.delete(worker)
      this.#workers--
      finish()
      job.reject(
        new EngineError(`A worker of this page stopped: ${event.message || 'no reason given'}.`),
      )
    }
    void this.#send(worker, { kind: 'run', name: job.name, input: job.input })
  }

  async #send(worker: Worker, message: ToWorker): Promise<void> {
    if (!this.#started.has(worker)) {
      this.#started.add(worker)
      worker.postMessage({ kind: 'start', pffft: await pffftBytes() } satisfies ToWorker)
    }
    worker.postMessage(message)
  }
}
