import type { Session } from '@sober-prism/core/session'
import { errorSentence, isCancel } from '../engine-error'
import type { PlaybackChoice, ReadyPlayback } from '../questions/playback'
import { Signal } from '../signal'
import type { HeardThrough } from '../sound/messages'

/** What one listens through. */
export interface Elsewhere {
  readonly choice: PlaybackChoice
  /** What makes it as loud as without it, in dB; null until it is known. */
  readonly gainDb: number | null
  readonly trouble: string | null
}

/** A session that changes is measured when it has stood still for so long. */
const SETTLE_MS = 600

/** By which a playback is told from others. */
export function playbackKey(choice: PlaybackChoice): string {
  return choice.kind === 'described' ? choice.playback.name : `recorded ${choice.id}`
}

/** Everything as through another playback, as loud as without it, for listening only. */
export class ElsewhereListening {
  readonly state = new Signal<Elsewhere | null>(null)
  #session: Session | null = null
  #measured: Session | null = null
  #timer: ReturnType<typeof setTimeout> | undefined
  #work: AbortController | null = null

  /**
   * @param prepare makes it and finds its levels for a session; null where nothing sounds.
   * @param play lets it be heard.
   */
  constructor(
    private readonly prepare: (
      choice: PlaybackChoice,
      session: Session,
      signal: AbortSignal,
    ) => Promise<ReadyPlayback | null>,
    private readonly play: (through: HeardThrough | null) => void,
  ) {}

  /** Listens through a playback; null as it is. */
  set(choice: PlaybackChoice | null): void {
    clearTimeout(this.#timer)
    this.#work?.abort(new DOMException('Another playback was chosen.', 'AbortError'))
    this.#measured = null
    if (!choice) {
      this.state.set(null)
      this.play(null)
      return
    }
    this.state.set({ choice, gainDb: null, trouble: null })
    void this.#prepareNow()
  }

  /** Takes a new state of the session. */
  update(session: Session): void {
    this.#session = session
    if (!this.state.value || session === this.#measured) return
    clearTimeout(this.#timer)
    this.#timer = setTimeout(() => void this.#prepareNow(), SETTLE_MS)
  }

  close(): void {
    clearTimeout(this.#timer)
    this.#work?.abort(new DOMException('The session was closed.', 'AbortError'))
  }

  async #prepareNow(): Promise<void> {
    const [choice, session] = [this.state.value?.choice, this.#session]
    if (!choice || !session || session === this.#measured) return
    this.#measured = session
    this.#work?.abort(new DOMException('A newer state is measured.', 'AbortError'))
    const work = new AbortController()
    this.#work = work
    try {
      const ready = await this.prepare(choice, session, work.signal)
      if (work.signal.aborted) return
      const gainDb = ready ? 20 * Math.log10(ready.levels.gain) : 0
      this.state.set({ choice, gainDb, trouble: null })
      // Its contours follow the level at which one listens.
      const key = `${playbackKey(choice)} ${session.listeningDbSpl}`
      if (ready) this.play({ key, ...ready })
    } catch (error) {
      if (work.signal.aborted || isCancel(error)) return
      this.state.set({ choice, gainDb: null, trouble: errorSentence(error) })
    }
  }
}
