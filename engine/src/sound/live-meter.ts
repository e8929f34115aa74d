import { pffftBytes } from '../pffft-bytes'
import { WatchedWorker } from '../work/watched-worker'
import type { AudioOutput } from './audio-output'
import type { LiveReading, ToLive } from './live'
import type { ProbeSettings } from './probe-spectrum'
import { TapBuffers } from './tap-buffers'

/** Measures what is played, as it is played: every track and group, the mix, and what one looks at more closely. */
export class LiveMeter {
  readonly #worker: WatchedWorker<ToLive>
  #pffft: ArrayBuffer | null = null
  #seen: ToLive | null = null
  #watched = ''
  #compared: readonly [string, string] | null = null
  #probed: { readonly id: string | null; readonly settings: ProbeSettings | null } = {
    id: null,
    settings: null,
  }
  #isClosed = false

  constructor(
    private readonly output: AudioOutput,
    private readonly sampleRateHz: number,
    onReading: (reading: LiveReading) => void,
  ) {
    this.#worker = new WatchedWorker(
      () => new Worker(new URL('./live.worker.ts', import.meta.url), { type: 'module' }),
      () => this.#tellWorker(),
      (reading) => onReading(reading as LiveReading),
    )
  }

  /** Shows what goes into a node's chain and what comes out of it; null for none. */
  probe(id: string | null, settings: ProbeSettings): void {
    this.#probed = { id, settings: id === null ? null : settings }
    this.output.send({ kind: 'probe', id })
    this.#worker.send({ kind: 'probe', settings: this.#probed.settings })
  }

  /** Shows what two nodes have at their sides; null for none. */
  compareSides(of: readonly [string, string] | null): void {
    this.#compared = of
    this.output.send({ kind: 'sides', of })
    this.#worker.send({ kind: 'sides', shown: of !== null })
  }

  /** Tells a new worklet what is looked at. */
  tellOutput(): void {
    this.#watched = ''
    this.output.send({ kind: 'probe', id: this.#probed.id })
    this.output.send({ kind: 'sides', of: this.#compared })
  }

  /** Gives each track and group a buffer when they change. */
  watch(ids: readonly string[]): void {
    if (!this.output.isOpen || ids.join() === this.#watched) return
    this.#watched = ids.join()
    const { buffer } = TapBuffers.forTracks(ids.length)
    this.output.send({ kind: 'taps', taps: buffer, ids })
    const { sampleRateHz } = this
    this.#seen = { kind: 'watch', taps: buffer, tracks: ids.length, sampleRateHz }
    void this.#begin(this.#seen)
  }

  close(): void {
    this.#isClosed = true
    this.#worker.close()
  }

  async #begin(seen: ToLive): Promise<void> {
    this.#pffft = await pffftBytes()
    if (this.#isClosed) return
    if (this.#worker.started) this.#worker.send(seen)
    else this.#worker.start()
  }

  #tellWorker(): void {
    if (this.#pffft) this.#worker.send({ kind: 'start', pffft: this.#pffft })
    this.#worker.send({ kind: 'probe', settings: this.#probed.settings })
    this.#worker.send({ kind: 'sides', shown: this.#compared !== null })
    if (this.#seen) this.#worker.send(this.#seen)
  }
}
