import { EngineError } from '../engine-error'
import { pffftBytes } from '../pffft-bytes'
import type { Progress } from '../questions/question'
import type { AnswerName, AnswerOf, InputOf } from '../questions/registry'
import { Life } from './life'
import type { FromWorker, ToWorker } from './messages'

interface Job {
  readonly name: AnswerName
  readonly input: unknown
  readonly signal: AbortSignal | undefined
  readonly queueSignal: AbortSignal | undefined
  readonly onProgress: Progress
  readonly first: boolean
  readonly followed: boolean
  readonly resolve: (output: never) => void
  readonly reject: (error: unknown) => void
  /** It was tried again, or is not to be, after a worker ended under it. */
  retried: boolean
  /** Whether a worker began it, in shared memory; one that had ended before it was given the job does not. */
  begun: Int32Array
}

/** Options of a piece of work. */
export interface RunOptions {
  /** Ends the work at once, wherever it is. */
  readonly signal?: AbortSignal
  /** Gives the work up while it still waits; once begun it is finished. */
  readonly queueSignal?: AbortSignal
  readonly onProgress?: Progress
  /** Goes before what can wait. */
  readonly first?: boolean
  /** What goes first follows right after it: nothing that can wait is begun in between. */
  readonly followed?: boolean
  /** Whether it may be done again when a worker ends under it; else that fails. */
  readonly retry?: boolean
}

/** A worker and what watches over it. */
interface Hand {
  readonly worker: Worker
  readonly life: Life
  started: boolean
  /** It has done a job before. */
  proven: boolean
  /** Ends the job under way, with a reason that is the worker's and not the job's. */
  onEnd: (error: EngineError) => void
}

/** So long is waited at most for what follows. */
const PAUSE_MS = 300

/**
 * Runs tasks on a few workers. Cancelling a running task ends its worker and starts a fresh one. A task whose worker
 * ends or hangs is given to another one once.
 */
export class WorkerPool {
  readonly #size: number
  readonly #idle: Hand[] = []
  readonly #queue: Job[] = []
  readonly #all = new Set<Hand>()
  /** Jobs under way that something follows. */
  readonly #followed = new Set<Job>()
  #pause: ReturnType<typeof setTimeout> | null = null

  constructor(size = Math.max(2, Math.min(8, navigator.hardwareConcurrency || 2))) {
    this.#size = size
  }

  get size(): number {
    return this.#size
  }

  run<N extends AnswerName>(
    name: N,
    input: InputOf<N>,
    options: RunOptions = {},
  ): Promise<AnswerOf<N>> {
    const { signal, queueSignal, onProgress = () => {}, retry = true } = options
    const { first = false, followed = false } = options
    return new Promise((resolve, reject) => {
      const given = { name, input, signal, queueSignal, onProgress, first, followed }
      this.#enqueue({ ...given, resolve, reject, retried: !retry, begun: notBegun() })
    })
  }

  /** Ends all workers; work under way is left unanswered. */
  close(): void {
    this.#queue.length = 0
    this.#endPause()
    for (const hand of [...this.#all]) this.#dismiss(hand)
  }

  #enqueue(job: Job): void {
    const waiting = job.first ? this.#queue.findIndex((j) => !j.first) : -1
    this.#queue.splice(waiting < 0 ? this.#queue.length : waiting, 0, job)
    this.#next()
  }

  #next(): void {
    for (let job = this.#queue[0]; job; job = this.#queue[0]) {
      const given = [job.signal, job.queueSignal].find((s) => s?.aborted)
      if (given) {
        this.#queue.shift()
        job.reject(given.reason)
        continue
      }
      // What goes first stands first: all others can wait too.
      if (!job.first && this.#isPaused) return
      const hand = this.#idle.pop() ?? this.#hire()
      if (!hand) return
      this.#queue.shift()
      // More of it may be given in a moment.
      if (job.first && this.#pause !== null) this.#pauseFor(0)
      this.#assign(hand, job)
    }
  }

  /** Whether what goes first is about to come. */
  get #isPaused(): boolean {
    return this.#pause !== null || [...this.#followed].some((job) => job.first)
  }

  /** Waits a little for what follows, unless there is more of what it follows on. */
  #startPause(): void {
    if (this.#followed.size > 0 || this.#queue.some((job) => job.followed)) return
    this.#pauseFor(PAUSE_MS)
  }

  #pauseFor(ms: number): void {
    this.#endPause()
    this.#pause = setTimeout(() => {
      this.#pause = null
      this.#next()
    }, ms)
  }

  #endPause(): void {
    if (this.#pause !== null) clearTimeout(this.#pause)
    this.#pause = null
  }

  #hire(): Hand | null {
    if (this.#all.size >= this.#size) return null
    const worker = new Worker(new URL('./task.worker.ts', import.meta.url), { type: 'module' })
    const hand: Hand = {
      worker,
      life: new Life(worker, (error) => {
        this.#dismiss(hand)
        hand.onEnd(error)
        this.#next()
      }),
      started: false,
      proven: false,
      onEnd: () => {},
    }
    this.#all.add(hand)
    worker.onmessage = ({ data }: MessageEvent<FromWorker>) => void hand.life.hear(data)
    return hand
  }

  #dismiss(hand: Hand): void {
    hand.worker.terminate()
    hand.life.close()
    this.#all.delete(hand)
    const at = this.#idle.indexOf(hand)
    if (at >= 0) this.#idle.splice(at, 1)
  }

  #assign(hand: Hand, job: Job): void {
    const { worker, life } = hand
    const finish = () => {
      hand.onEnd = () => {}
      worker.onmessage = ({ data }: MessageEvent<FromWorker>) => void life.hear(data)
      worker.onerror = null
      life.rest()
      job.signal?.removeEventListener('abort', abort)
      this.#followed.delete(job)
      this.#next()
    }
    const abort = () => {
      this.#dismiss(hand)
      finish()
      job.reject(job.signal?.reason)
    }
    job.signal?.addEventListener('abort', abort)
    job.begun = notBegun()
    if (job.followed) this.#followed.add(job)
    hand.onEnd = (error) => {
      finish()
      // Several workers may end at once, and the job be given to one whose end was not noticed yet: that is no try.
      const tried = Atomics.load(job.begun, 0) === 1 || !hand.proven
      if (tried && job.retried) return job.reject(error)
      job.retried ||= tried
      this.#enqueue(job)
    }
    worker.onmessage = ({ data: message }: MessageEvent<FromWorker>) => {
      if (life.hear(message)) {
        life.work()
        return
      }
      if (message.kind === 'progress') {
        life.work()
        return job.onProgress(message.share, message.part)
      }
      hand.proven = true
      this.#idle.push(hand)
      this.#followed.delete(job)
      if (job.followed && message.kind === 'done') this.#startPause()
      finish()
      if (message.kind === 'done') job.resolve(message.output as never)
      else if (message.kind === 'failed') {
        const { message: reason, isPlain } = message
        job.reject(new EngineError(isPlain ? reason : `The computation stopped: ${reason}.`))
      }
    }
    worker.onerror = (event) => {
      this.#dismiss(hand)
      finish()
      job.reject(
        new EngineError(`A background process stopped: ${event.message || 'no reason given'}.`),
      )
    }
    if (hand.started) life.work()
    const { name, input, begun } = job
    this.#send(hand, { kind: 'run', name, input, begun }).catch((error: unknown) => {
      this.#dismiss(hand)
      finish()
      job.reject(error)
    })
  }

  async #send(hand: Hand, message: ToWorker): Promise<void> {
    if (!hand.started) {
      const pffft = await pffftBytes()
      hand.worker.postMessage({ kind: 'start', pffft } satisfies ToWorker)
      hand.started = true
    }
    hand.worker.postMessage(message)
  }
}

function notBegun(): Int32Array {
  return new Int32Array(new SharedArrayBuffer(4))
}
