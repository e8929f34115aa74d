import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { AnswerName } from '../questions/registry'
import { ALIVE } from './life'
import { WorkerPool } from './worker-pool'

vi.mock('../pffft-bytes', () => ({ pffftBytes: async () => new ArrayBuffer(0) }))

type Message = {
  readonly kind: string
  readonly name?: string
  readonly lock?: string
  readonly begun?: Int32Array
}

/** A worker that begins what it is given and finishes it when told, or ends without a word to the page. */
class FakeWorker {
  static readonly all: FakeWorker[] = []
  onmessage: ((event: { data: unknown }) => void) | null = null
  onerror: ((event: ErrorEvent) => void) | null = null
  readonly given: string[] = []
  ended = false
  #letGo = () => {}

  constructor() {
    FakeWorker.all.push(this)
  }

  postMessage(message: Message): void {
    if (this.ended) return
    if (message.kind === 'life') {
      const held = new Promise<void>((resolve) => {
        this.#letGo = resolve
      })
      void navigator.locks.request(message.lock ?? '', () => held)
      queueMicrotask(() => this.#say(ALIVE))
    }
    if (message.kind === 'run') {
      this.given.push(message.name ?? '')
      const { begun } = message
      queueMicrotask(() => begun && !this.ended && Atomics.store(begun, 0, 1))
    }
  }

  finish(output: unknown): void {
    this.#say({ kind: 'done', output })
  }

  /** Nobody hears of it before `notice`. */
  terminate(): void {
    this.ended = true
  }

  notice(): void {
    this.#letGo()
  }

  #say(data: unknown): void {
    if (!this.ended) this.onmessage?.({ data })
  }
}

/** Grants each lock when the one before it was let go. */
function locks() {
  const tails = new Map<string, Promise<unknown>>()
  return {
    request(name: string, ...rest: unknown[]): Promise<unknown> {
      const turn = (tails.get(name) ?? Promise.resolve()).then(rest.at(-1) as () => unknown)
      tails.set(name, turn)
      return turn
    },
  }
}

beforeEach(() => {
  FakeWorker.all.length = 0
  vi.stubGlobal('Worker', FakeWorker)
  vi.stubGlobal('navigator', { locks: locks(), hardwareConcurrency: 2 })
})
afterEach(() => vi.unstubAllGlobals())

const settled = () => new Promise((resolve) => setTimeout(resolve, 5))
const task = 'track' as AnswerName
const input = {} as never

/** A pool whose two workers have done a job each. */
async function proven() {
  const pool = new WorkerPool(2)
  const jobs = [pool.run(task, input), pool.run(task, input)]
  await settled()
  for (const worker of FakeWorker.all) worker.finish(0)
  await Promise.all(jobs)
  const [first, second] = FakeWorker.all
  return { pool, first, second }
}

describe('the pool', () => {
  it('does a job again whose worker ended, though the next one had ended at the same time', async () => {
    const { pool, first, second } = await proven()
    const job = pool.run(task, input)
    await settled()
    const [busy, idle] =
      first.given.length > second.given.length ? [first, second] : [second, first]
    busy.terminate()
    idle.terminate()
    busy.notice()
    await settled()
    idle.notice()
    await settled()
    const fresh = FakeWorker.all.at(-1)
    expect(fresh?.given).toEqual(['track'])
    fresh?.finish('in the end')
    expect(await job).toBe('in the end')
  })

  it('gives up a job under which two workers ended that had begun it', async () => {
    const { pool } = await proven()
    const job = pool.run(task, input)
    const refused = expect(job).rejects.toThrow(/ended/)
    for (let round = 0; round < 2; round++) {
      await settled()
      const busy = FakeWorker.all.find((worker) => !worker.ended && worker.given.length > 1)
      busy?.terminate()
      busy?.notice()
    }
    await refused
    expect(FakeWorker.all.flatMap((worker) => worker.given).length).toBe(4)
  })

  it('does not do again what must not be, once a worker had begun it', async () => {
    const { pool } = await proven()
    const job = pool.run(task, input, { retry: false })
    const refused = expect(job).rejects.toThrow(/ended/)
    await settled()
    const busy = FakeWorker.all.find((worker) => worker.given.length > 1)
    busy?.terminate()
    busy?.notice()
    await refused
    expect(FakeWorker.all.flatMap((worker) => worker.given).length).toBe(3)
  })

  it('begins nothing that can wait between a job and what follows on it', async () => {
    const { pool, first, second } = await proven()
    const given = () => [first, second].flatMap((worker) => worker.given.slice(1))
    const measured = pool.run(task, input, { followed: true })
    const other = pool.run('mixPart' as AnswerName, input)
    const waiting = pool.run('mixPart' as AnswerName, input)
    await settled()
    const track = first.given.at(-1) === 'track' ? first : second
    const beside = track === first ? second : first
    track.finish(0)
    beside.finish(0)
    await Promise.all([measured, other])
    expect(given().sort()).toEqual(['mixPart', 'track'])
    const patterns = pool.run('patterns' as AnswerName, input, { first: true, followed: true })
    await settled()
    // One is at rest, for what follows on this one goes before.
    expect(given().sort()).toEqual(['mixPart', 'patterns', 'track'])
    const heard = first.given.at(-1) === 'patterns' ? first : second
    heard.finish(0)
    await patterns
    const masking = [1, 2].map(() => pool.run('masking' as AnswerName, input, { first: true }))
    await settled()
    expect(given().filter((name) => name === 'masking').length).toBe(2)
    for (const worker of [first, second]) worker.finish(0)
    await Promise.all(masking)
    await settled()
    expect(given().filter((name) => name === 'mixPart').length).toBe(2)
    for (const worker of [first, second]) worker.finish(0)
    await waiting
  })

  it('waits only a little for what follows', async () => {
    const { pool, first, second } = await proven()
    const measured = pool.run(task, input, { followed: true })
    await settled()
    for (const worker of [first, second]) worker.finish(0)
    await measured
    const waiting = pool.run('mixPart' as AnswerName, input)
    await settled()
    expect([...first.given, ...second.given]).not.toContain('mixPart')
    await vi.waitFor(() => expect([...first.given, ...second.given]).toContain('mixPart'))
    for (const worker of [first, second]) worker.finish('late')
    expect(await waiting).toBe('late')
  })
})
