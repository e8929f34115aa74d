import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { ALIVE } from '../work/life'

/** A worker that answers as a test tells it to. */
class FakeWorker {
  static made: FakeWorker[] = []
  onmessage: ((event: { data: unknown }) => void) | null = null
  onerror: ((event: { message: string }) => void) | null = null
  readonly sent: { message: { name?: string; kind?: string }; transfer: unknown }[] = []
  ended = false

  constructor() {
    FakeWorker.made.push(this)
  }
  postMessage(message: never, transfer?: unknown): void {
    this.sent.push({ message, transfer })
  }
  terminate(): void {
    this.ended = true
  }
  say(data: unknown): void {
    this.onmessage?.({ data })
  }
  get jobs(): string[] {
    return this.sent.flatMap(({ message }) => (message.name ? [message.name] : []))
  }
}

const file = new Blob(['x'])
let runFileJob: typeof import('./jobs').runFileJob

beforeEach(async () => {
  vi.useFakeTimers()
  vi.stubGlobal('Worker', FakeWorker)
  // Locks are never granted here: no worker's end shows by them.
  vi.stubGlobal('navigator', { locks: { request: () => new Promise(() => {}) } })
  FakeWorker.made = []
  vi.resetModules()
  ;({ runFileJob } = await import('./jobs'))
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})
const worker = (n = 0) => FakeWorker.made[n]

describe('a job on a file', () => {
  it('goes to a worker with what is handed over, and gives what that makes of it', async () => {
    const buffer = new ArrayBuffer(8)
    const made = runFileJob('unzip', { file }, { transfer: [buffer] })
    expect(worker().sent.at(-1)).toEqual({
      message: { name: 'unzip', input: { file } },
      transfer: [buffer],
    })
    worker().say(ALIVE)
    worker().say({ kind: 'done', output: { entries: [] } })
    expect(await made).toEqual({ entries: [] })
  })

  it('tells its stages and shares on the way', async () => {
    const told: [string, number][] = []
    const made = runFileJob('unzip', { file }, { onProgress: (s, share) => told.push([s, share]) })
    worker().say({ kind: 'progress', stage: 'reading', share: 0.25 })
    worker().say({ kind: 'progress', stage: 'storing', share: 1 })
    worker().say({ kind: 'done', output: null })
    await made
    expect(told).toEqual([
      ['reading', 0.25],
      ['storing', 1],
    ])
  })

  it('fails with the worker’s own sentence, and the worker takes the next one', async () => {
    const made = runFileJob('unzip', { file })
    worker().say({ kind: 'failed', sentence: 'The zip is cut off.' })
    await expect(made).rejects.toThrow('The zip is cut off.')
    void runFileJob('pack', {} as never)
    expect(FakeWorker.made).toHaveLength(1)
    expect(worker().jobs).toEqual(['unzip', 'pack'])
  })

  it('fails with a sentence where the worker breaks down, and another one is hired', async () => {
    const made = runFileJob('unzip', { file })
    worker().onerror?.({ message: 'out of memory' })
    await expect(made).rejects.toThrow('The file could not be processed: out of memory.')
    expect(worker().ended).toBe(true)
    void runFileJob('unzip', { file })
    expect(FakeWorker.made).toHaveLength(2)
  })

  it('is ended at once when it is cancelled, with its worker', async () => {
    const controller = new AbortController()
    const made = runFileJob('unzip', { file }, { signal: controller.signal })
    controller.abort(new DOMException('Cancelled.', 'AbortError'))
    await expect(made).rejects.toThrow('Cancelled.')
    expect(worker().ended).toBe(true)
    // What comes too late is heard by nobody.
    worker().say({ kind: 'done', output: null })
  })

  it('is not begun when it was cancelled before', async () => {
    const signal = AbortSignal.abort(new DOMException('Cancelled.', 'AbortError'))
    await expect(runFileJob('unzip', { file }, { signal })).rejects.toThrow('Cancelled.')
    expect(FakeWorker.made).toEqual([])
  })

  it('is given to another worker where its own hangs, and ends with a sentence where that hangs too', async () => {
    const made = runFileJob('unzip', { file })
    worker().say(ALIVE)
    const ended = expect(made).rejects.toThrow(/stopped responding/)
    await vi.advanceTimersByTimeAsync(125_000)
    expect(FakeWorker.made.map((w) => w.ended)).toEqual([true, false])
    worker(1).say(ALIVE)
    await vi.advanceTimersByTimeAsync(10 * 60_000)
    await ended
    expect(FakeWorker.made.map((w) => w.ended)).toEqual([true, true])
  })

  it('is not given on where what it works with went with the first', async () => {
    const made = runFileJob('unzip', { file }, { transfer: [new ArrayBuffer(8)] })
    const ended = expect(made).rejects.toThrow(/stopped responding/)
    worker().say(ALIVE)
    await vi.advanceTimersByTimeAsync(10 * 60_000)
    await ended
    expect(FakeWorker.made).toHaveLength(1)
  })
})

describe('workers on files', () => {
  it('work beside each other, wait a while for more, two at most, and then go', async () => {
    const made = [1, 2, 3].map(() => runFileJob('unzip', { file }))
    expect(FakeWorker.made).toHaveLength(3)
    for (const w of FakeWorker.made) w.say({ kind: 'done', output: null })
    await Promise.all(made)
    expect(FakeWorker.made.map((w) => w.ended)).toEqual([false, false, true])
    await vi.advanceTimersByTimeAsync(4000)
    expect(FakeWorker.made.every((w) => w.ended)).toBe(true)
    void runFileJob('unzip', { file })
    expect(FakeWorker.made).toHaveLength(4)
  })
})
