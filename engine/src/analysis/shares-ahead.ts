import type { TrackChange } from '@sober-prism/core/findings'
import { pffftBytes } from '../pffft-bytes'
import type { FromForesight, Surveyed, ToForesight } from '../work/foresight-messages'
import { WatchedWorker } from '../work/watched-worker'

type Shares = FromForesight['shares']

interface Asked {
  readonly turn: number
  readonly changes: readonly TrackChange[]
  readonly resolve: (shares: Shares | null) => void
}

/** Patterns of more tracks would take more memory than a glance ahead is worth. */
const MOST_TRACKS = 48

/** Foresees shares in a worker of its own that keeps what was measured: an answer takes hundredths of a second. */
export class SharesAhead {
  readonly #worker: WatchedWorker<ToForesight>
  #pffft: ArrayBuffer | null = null
  #surveyed: Surveyed | null = null
  /** What was measured last is on its way to the worker. */
  #taken: Promise<void> = Promise.resolve()
  #turn = 0
  #asked: Asked | null = null
  /** One question is with the worker; the newest of all that came meanwhile goes next. */
  #isBusy = false
  #isClosed = false

  constructor() {
    this.#worker = new WatchedWorker(
      () => new Worker(new URL('../work/foresight.worker.ts', import.meta.url), { type: 'module' }),
      () => this.#tellAll(),
      (message) => this.#hear(message as FromForesight),
    )
  }

  /** What was measured last; what is foreseen from then on is foreseen from it. */
  take(surveyed: Surveyed): Promise<void> {
    this.#answer(null)
    this.#surveyed = surveyed.tracks.length > MOST_TRACKS ? null : surveyed
    if (this.#surveyed) this.#taken = this.#tell(this.#surveyed)
    return this.#taken
  }

  async #tell(surveyed: Surveyed): Promise<void> {
    this.#pffft ??= await pffftBytes()
    if (this.#isClosed) return
    if (this.#worker.started) this.#worker.send({ kind: 'survey', surveyed })
    else this.#worker.start()
  }

  /** By how much shares change; null where that is not known, or another question came after this one. */
  async change(changes: readonly TrackChange[]): Promise<Shares | null> {
    this.#answer(null)
    const turn = ++this.#turn
    await this.#taken
    if (turn !== this.#turn || !this.#surveyed || !this.#worker.started) return null
    return new Promise((resolve) => {
      this.#asked = { turn, changes, resolve }
      if (!this.#isBusy) this.#send(this.#asked)
    })
  }

  close(): void {
    this.#isClosed = true
    this.#answer(null)
    this.#worker.close()
  }

  #answer(shares: Shares | null): void {
    this.#asked?.resolve(shares)
    this.#asked = null
  }

  #send({ turn, changes }: Asked): void {
    this.#isBusy = true
    this.#worker.send({ kind: 'change', turn, changes })
  }

  #hear({ turn, shares }: FromForesight): void {
    this.#isBusy = false
    if (this.#asked?.turn === turn) this.#answer(shares)
    else if (this.#asked) this.#send(this.#asked)
  }

  #tellAll(): void {
    this.#isBusy = false
    this.#answer(null)
    if (this.#pffft) this.#worker.send({ kind: 'start', pffft: this.#pffft })
    if (this.#surveyed) this.#worker.send({ kind: 'survey', surveyed: this.#surveyed })
  }
}
