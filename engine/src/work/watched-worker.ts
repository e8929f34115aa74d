import { Life } from './life'

/** So many workers in a row may end before they have shown their life; then no other is begun. */
const MOST_TRIES = 3

/** A worker that is always there: where it ends or hangs, another one takes its place and is told everything again. */
export class WatchedWorker<ToWorker> {
  #worker: Worker | null = null
  #life: Life | null = null
  #tries = 0

  /**
   * @param make makes the worker, which shows its life by `showLife`.
   * @param tellAll sends a new worker all that it works by.
   * @param hear is given what it says.
   */
  constructor(
    private readonly make: () => Worker,
    private readonly tellAll: () => void,
    private readonly hear: (message: unknown) => void = () => {},
  ) {}

  get started(): boolean {
    return this.#worker !== null
  }

  /** Begins, unless it has. */
  start(): void {
    if (this.#worker) return
    const worker = this.make()
    this.#worker = worker
    const life = new Life(worker, () => this.#replace())
    this.#life = life
    worker.onmessage = ({ data }: MessageEvent) => {
      this.#tries = 0
      if (!life.hear(data)) this.hear(data)
    }
    this.tellAll()
  }

  /** A worker that is not there yet is told when it begins. */
  send(message: ToWorker, transfer: Transferable[] = []): void {
    this.#worker?.postMessage(message, transfer)
  }

  close(): void {
    this.#life?.close()
    this.#worker?.terminate()
    this.#worker = null
  }

  #replace(): void {
    this.close()
    if (++this.#tries < MOST_TRIES) this.start()
  }
}
