import { existsSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { Worker } from 'node:worker_threads'
import {
  type AnyJobCall,
  type FromThread,
  type JobCall,
  type JobName,
  type Results,
  startJob,
  type ThreadCall,
  type ToThread,
} from './beside-job'

/** Frames of one piece, and pieces that may be on their way at once. */
const PIECE_FRAMES = 65536
const SLOTS = 4

/** The thread's script, which stands beside the bundled program; from its sources all runs in one thread. */
const script = new URL('./beside-thread.mjs', import.meta.url)

/** Samples from which a second thread is worth its start. */
const MANY_SAMPLES = 4e6

/** Work on sound that comes piece by piece. */
export interface Work<R> {
  /** Takes a piece, whose arrays are free again when this is done. Throws what went wrong with earlier ones. */
  add(piece: readonly Float32Array[]): Promise<void>
  finish(): Promise<R>
  /** Ends it without a result. */
  discard(): Promise<void>
}

/** Starts a job on so much sound: in a thread beside where that is worth while and there is a script for it. */
export function startWork<J extends JobName>(
  call: JobCall<J>,
  channels: number,
  frames: number,
): Work<Results[J]> {
  if (frames * channels > MANY_SAMPLES && existsSync(fileURLToPath(script))) {
    return new Beside(call, channels)
  }
  const job = startJob(call as unknown as AnyJobCall)
  return {
    add: async (piece) => job.add(piece),
    finish: async () => job.finish() as Results[J],
    discard: async () => {},
  }
}

/**
 * Work on sound in a thread beside this one: pieces go over in shared memory, a few ahead at most, and the result
 * comes back at the end.
 */
class Beside<J extends JobName> implements Work<Results[J]> {
  readonly #worker: Worker
  readonly #slots: readonly (readonly Float32Array[])[]
  readonly #free: number[]
  readonly #result: Promise<Results[J]>
  #wake: () => void = () => {}
  #failure: unknown = null

  constructor(call: JobCall<J>, channels: number) {
    this.#slots = Array.from({ length: SLOTS }, () =>
      Array.from(
        { length: channels },
        () => new Float32Array(new SharedArrayBuffer(4 * PIECE_FRAMES)),
      ),
    )
    this.#free = this.#slots.map((_, i) => i)
    const workerData = { ...call, slots: this.#slots } as unknown as ThreadCall
    this.#worker = new Worker(script, { workerData })
    this.#result = new Promise((resolve, reject) => {
      this.#worker.on('message', (message: FromThread) => {
        if ('result' in message) {
          resolve(message.result as Results[J])
          return
        }
        this.#free.push(message.free)
        this.#wake()
      })
      this.#worker.on('error', (error) => {
        this.#failure = error
        reject(error)
        this.#wake()
      })
    })
    // It is awaited at the end; until then its failure must not count as unhandled.
    this.#result.catch(() => {})
  }

  async add(piece: readonly Float32Array[]): Promise<void> {
    const frames = piece[0].length
    for (let at = 0; at < frames; at += PIECE_FRAMES) {
      while (this.#free.length === 0 && this.#failure === null) {
        await new Promise<void>((resolve) => {
          this.#wake = resolve
        })
      }
      if (this.#failure !== null) throw this.#failure
      const slot = this.#free.pop() as number
      const end = Math.min(frames, at + PIECE_FRAMES)
      this.#slots[slot].forEach((channel, c) => {
        channel.set(piece[c].subarray(at, end))
      })
      this.#post({ slot, frames: end - at })
    }
  }

  async finish(): Promise<Results[J]> {
    this.#post('end')
    return this.#result
  }

  async discard(): Promise<void> {
    await this.#worker.terminate()
  }

  #post(message: ToThread): void {
    this.#worker.postMessage(message)
  }
}
