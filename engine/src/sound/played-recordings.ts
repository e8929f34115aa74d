import type { Loop } from '@sober-prism/core/mix'
import type { RecordingAccess } from '../storage/recording-access'
import { WatchedWorker } from '../work/watched-worker'
import type { AudioOutput } from './audio-output'
import type { PlayedAudio, ToFeeder } from './messages'
import { makeWindow, type SharedWindow } from './window-source'

/** A window, and at how many places on the time line it is wide enough to be played. */
interface MadeWindow {
  readonly window: SharedWindow
  readonly places: number
}

/**
 * The recordings that are played: those in memory as a whole, and for all others windows that a worker fills ahead of the
 * play head.
 */
export class PlayedRecordings {
  #audio = new Map<string, RecordingAccess>()
  readonly #windows = new Map<string, MadeWindow>()
  readonly #feeder: WatchedWorker<ToFeeder>
  #fed: ToFeeder = { kind: 'feed', recordings: [] }
  #loop: Loop | null = null
  #place = { frame: 0, jumps: 0 }

  /** @param position where the play head is. */
  constructor(
    private readonly output: AudioOutput,
    private readonly position: () => number,
  ) {
    this.#feeder = new WatchedWorker(
      () => new Worker(new URL('./feeder.worker.ts', import.meta.url), { type: 'module' }),
      () => this.#tellFeeder(),
    )
    this.#feeder.start()
  }

  /** The recordings to be played, by hash, with the places on the time line at which each begins. */
  set(
    recordings: ReadonlyMap<string, RecordingAccess>,
    offsets: ReadonlyMap<string, readonly number[]>,
  ): void {
    for (const hash of this.#audio.keys()) {
      if (recordings.has(hash)) continue
      this.#windows.delete(hash)
      this.output.send({ kind: 'audio', hash, audio: null })
    }
    const known = this.#audio
    this.#audio = new Map(recordings)
    for (const [hash, access] of recordings) {
      const isWide = this.#widen(access, offsets.get(hash)?.length ?? 1)
      if (known.get(hash) === access && isWide) continue
      this.output.send({ kind: 'audio', hash, audio: this.#played(access) })
    }
    const recordingsFed = [...this.#windows].flatMap(([hash, { window }]) => {
      const blocks = recordings.get(hash)?.blocks
      return blocks === undefined
        ? []
        : [{ hash, window, blocks, offsets: offsets.get(hash) ?? [] }]
    })
    this.#fed = { kind: 'feed', recordings: recordingsFed }
    this.#feeder.send(this.#fed)
  }

  /**
   * Sees to a window that is wide enough: one that more tracks play than it was made for would be asked for more than it
   * holds, and never be filled. @returns whether it was.
   */
  #widen({ hash, memory, channels, frames }: RecordingAccess, places: number): boolean {
    if (memory) return true
    const made = this.#windows.get(hash)
    if (made && made.places >= places) return true
    this.#windows.set(hash, { window: makeWindow(channels, frames, places), places })
    return false
  }

  #played({ hash, memory }: RecordingAccess): PlayedAudio {
    if (memory) return { kind: 'memory', channels: memory }
    const made = this.#windows.get(hash)
    if (!made) throw new Error('A recording that is played by a window has none.')
    return { kind: 'window', window: made.window }
  }

  setLoop(loop: Loop | null): void {
    this.#loop = loop
    this.#feeder.send({ kind: 'loop', loop })
  }

  jump(frame: number, jumps: number): void {
    this.#place = { frame, jumps }
    this.#feeder.send({ kind: 'jump', frame, jumps })
  }

  /** Tells a new worklet of all recordings. */
  tellOutput(): void {
    this.#connect()
    for (const [hash, access] of this.#audio) {
      this.output.send({ kind: 'audio', hash, audio: this.#played(access) })
    }
  }

  close(): void {
    this.#feeder.close()
  }

  /** Tells a feeder all that it works by: where it is, what loops, what there is to read. */
  #tellFeeder(): void {
    if (this.output.isOpen) this.#connect()
    this.#feeder.send({ kind: 'loop', loop: this.#loop })
    this.#feeder.send(this.#fed)
    this.#feeder.send({ kind: 'jump', frame: this.position(), jumps: this.#place.jumps })
  }

  #connect(): void {
    const { port1, port2 } = new MessageChannel()
    this.#feeder.send({ kind: 'port', port: port1 }, [port1])
    this.output.send({ kind: 'port', port: port2 }, [port2])
  }
}
