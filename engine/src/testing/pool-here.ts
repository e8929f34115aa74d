import { type AnswerName, answer, type InputOf } from '../questions/registry'
import type { RunOptions } from '../work/worker-pool'

/** A pool that does its work here, one task after another, and notes what it was asked for. */
export class PoolHere {
  readonly asked: AnswerName[] = []
  #tail: Promise<unknown> = Promise.resolve()

  run<N extends AnswerName>(name: N, input: InputOf<N>, { queueSignal }: RunOptions = {}) {
    const work = this.#tail.then(() => {
      queueSignal?.throwIfAborted()
      this.asked.push(name)
      return answer(name, input, () => {})
    })
    this.#tail = work.catch(() => {})
    return work
  }

  count(name: AnswerName): number {
    return this.asked.filter((n) => n === name).length
  }
}
