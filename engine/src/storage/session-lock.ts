import { Signal } from '../signal'

/** Who works on an open session: this window, or another one. */
export type Holder = 'here' | 'elsewhere' | 'asking'

/** How long a window that is asked to let go may take before it is passed over. */
const PATIENCE_MS = 3000
type Message = { kind: 'take over'; anyway: boolean } | { kind: 'busy'; sentence: string }

/** How long others stand back when one asks to take over. */
const BACK_MS = 500

/**
 * One window at a time works on a session. Others are told, may take over (the first then stores what it has and
 * lets go), and go on by themselves when it is closed.
 */
export class SessionLock {
  readonly holder = new Signal<Holder>('asking')
  /** What taking over would end in the window that has the session; null as long as nothing is known of it. */
  readonly objection = new Signal<string | null>(null)
  readonly #name: string
  readonly #channel: BroadcastChannel | null
  #release: (() => void) | null = null
  #waiting: AbortController | null = null
  #later: ReturnType<typeof setTimeout> | undefined
  #patience: ReturnType<typeof setTimeout> | undefined
  #closed = false
  /** Called when another window takes over, before the lock is let go: what is unsaved is to be stored now. */
  onTakenOver: () => Promise<void> = async () => {}
  /** Asked when another window wants to take over: a sentence on what that would end here, or null. */
  wouldEnd: () => string | null = () => null

  constructor(sessionId: string) {
    this.#name = `sober-prism session ${sessionId}`
    this.#channel =
      typeof BroadcastChannel === 'undefined' ? null : new BroadcastChannel(this.#name)
    if (this.#channel) this.#channel.onmessage = ({ data }) => void this.#hear(data)
    void this.#ask()
  }

  /**
   * Takes the session from the window that has it. Where that would end work under way there, nothing happens but
   * that {@link objection} says so, unless it is to be taken `anyway`.
   */
  takeOver(anyway = false): void {
    if (this.holder.value === 'here') return
    this.holder.set('asking')
    this.#say({ kind: 'take over', anyway })
    if (!this.#waiting) void this.#wait()
    // A window that hangs does not answer: the lock is taken from it.
    this.#patience = setTimeout(() => {
      this.#waiting?.abort()
      void this.#request({ steal: true })
    }, PATIENCE_MS)
  }

  #say(message: Message): void {
    this.#channel?.postMessage(message)
  }

  async #hear(message: Message): Promise<void> {
    if (message.kind === 'busy') {
      if (this.holder.value !== 'asking') return
      clearTimeout(this.#patience)
      this.objection.set(message.sentence)
      this.holder.set('elsewhere')
      return
    }
    if (this.holder.value === 'here') {
      const sentence = message.anyway ? null : this.wouldEnd()
      if (sentence !== null) return this.#say({ kind: 'busy', sentence })
      await this.onTakenOver().catch(() => {})
      this.#let()
      this.holder.set('elsewhere')
    }
    // The one that asked comes first.
    this.#waiting?.abort()
    this.#waiting = null
    clearTimeout(this.#later)
    this.#later = setTimeout(() => void this.#wait(), BACK_MS)
  }

  async #ask(): Promise<void> {
    if (typeof navigator === 'undefined' || !navigator.locks) return this.holder.set('here')
    let free = false
    await this.#request({ ifAvailable: true }, () => {
      free = true
    })
    if (free || this.#closed) return
    this.holder.set('elsewhere')
    void this.#wait()
  }

  /** Waits for its turn. */
  #wait(): Promise<void> {
    clearTimeout(this.#later)
    const waiting = new AbortController()
    this.#waiting = waiting
    return this.#request({ signal: waiting.signal }, () => {
      this.#waiting = null
    })
  }

  /** Holds the lock from when it is granted until it is let go. */
  async #request(options: LockOptions, onGranted = () => {}): Promise<void> {
    try {
      await navigator.locks.request(this.#name, options, (lock) => {
        if (!lock || this.#closed) return
        onGranted()
        clearTimeout(this.#patience)
        this.objection.set(null)
        this.holder.set('here')
        return new Promise<void>((resolve) => {
          this.#release = resolve
        })
      })
    } catch {
      // The waiting was given up; or another window took the lock by force, because this one did not answer.
      if (this.holder.value === 'here' && !options.signal?.aborted) this.holder.set('elsewhere')
    }
  }

  #let(): void {
    this.#release?.()
    this.#release = null
  }

  close(): void {
    this.#closed = true
    clearTimeout(this.#later)
    clearTimeout(this.#patience)
    this.#waiting?.abort()
    this.#channel?.close()
    this.#let()
  }
}
