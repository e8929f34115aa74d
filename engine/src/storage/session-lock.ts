import { Signal } from '../signal'

/** Who works on an open session: this window, or another one. */
export type Holder = 'here' | 'elsewhere' | 'asking'

/**
 * One window at a time works on a session. The second one is told, and may take over: the first then stores what
 * it has and lets go.
 */
export class SessionLock {
  readonly holder = new Signal<Holder>('asking')
  readonly #name: string
  readonly #channel: BroadcastChannel | null
  #release: (() => void) | null = null
  #closed = false
  /** Called when another window takes over, before the lock is let go: what is unsaved is to be stored now. */
  onTakenOver: () => Promise<void> = async () => {}

  constructor(sessionId: string) {
    this.#name = `sober-prism session ${sessionId}`
    this.#channel =
      typeof BroadcastChannel === 'undefined' ? null : new BroadcastChannel(this.#name)
    if (this.#channel) this.#channel.onmessage = ({ data }) => void this.#hear(data)
    void this.#ask()
  }

  /** Takes the session from the window that has it. */
  takeOver(): void {
    if (this.holder.value === 'here') return
    this.holder.set('asking')
    this.#channel?.postMessage('take over')
    void this.#wait()
  }

  async #hear(message: unknown): Promise<void> {
    if (message !== 'take over' || this.holder.value !== 'here') return
    await this.onTakenOver().catch(() => {})
    this.#let()
    this.holder.set('elsewhere')
  }

  async #ask(): Promise<void> {
    if (typeof navigator === 'undefined' || !navigator.locks) return this.holder.set('here')
    try {
      await navigator.locks.request(this.#name, { ifAvailable: true }, (lock) => {
        if (lock) return this.#hold()
        this.holder.set('elsewhere')
      })
    } catch {
      // Another window took it by force, because this one did not answer.
      this.holder.set('elsewhere')
    }
  }

  async #wait(): Promise<void> {
    if (typeof navigator === 'undefined' || !navigator.locks) return
    // A window that hangs does not answer: after a while the lock is taken from it.
    const patience = new AbortController()
    const timer = setTimeout(() => patience.abort(), 3000)
    try {
      await navigator.locks.request(this.#name, { signal: patience.signal }, () => {
        clearTimeout(timer)
        return this.#hold()
      })
    } catch {
      await navigator.locks.request(this.#name, { steal: true }, () => this.#hold())
    }
  }

  #hold(): Promise<void> | undefined {
    if (this.#closed) return undefined
    this.holder.set('here')
    return new Promise((resolve) => {
      this.#release = resolve
    })
  }

  #let(): void {
    this.#release?.()
    this.#release = null
  }

  close(): void {
    this.#closed = true
    this.#channel?.close()
    this.#let()
  }
}
