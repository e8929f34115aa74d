import type { Session } from '@sober-prism/core/session'
import { errorSentence } from '../engine-error'
import { Signal } from '../signal'
import { ConflictError, journalSession, leaveSession, saveSession } from './sessions'

/** How the newest state of the open session is kept. */
export type Keeping =
  | { readonly kind: 'kept' }
  | { readonly kind: 'under way' }
  /** It is not; it is tried again by itself, unless another window stands in the way. */
  | { readonly kind: 'refused'; readonly sentence: string; readonly conflict: boolean }

/** What a keeper stores by. */
export interface KeeperStorage {
  save(document: Session, change: number): Promise<void>
  journal(document: Session, change: number): Promise<void>
  /** Puts it down at once, without a promise. */
  leave?(document: Session, change: number): void
}

/** Counts the changes of this window, whichever session they are made to. */
let changes = 0

const SAVE_MS = 300
const FIRST_RETRY_MS = 1000
const LAST_RETRY_MS = 30_000
const STORAGE: KeeperStorage = {
  save: saveSession,
  journal: journalSession,
  leave: leaveSession,
}

/**
 * Keeps an open session stored: every change goes into the journal at once and among the sessions a moment later.
 * What could not be stored stays marked until it is, and is tried again.
 */
export class SessionKeeper {
  readonly state = new Signal<Keeping>({ kind: 'kept' })
  #document: Session
  /** The newest change, the last one in the journal, the last one among the sessions. */
  #change = 0
  #noted = 0
  #saved = 0
  #noting: Promise<void> | null = null
  #saving: Promise<void> | null = null
  #timer: ReturnType<typeof setTimeout> | undefined
  #failures = 0

  constructor(
    document: Session,
    private readonly storage: KeeperStorage = STORAGE,
  ) {
    this.#document = document
  }

  /** Takes a new state to keep. */
  update(document: Session): void {
    if (document === this.#document) return
    this.#document = document
    this.#change = ++changes
    if (this.state.value.kind === 'kept') this.state.set({ kind: 'under way' })
    this.#note()
    if (this.#failures === 0) this.#later(SAVE_MS)
  }

  /** True while the newest state is nowhere but in this window. */
  get atRisk(): boolean {
    return this.#change > Math.max(this.#noted, this.#saved)
  }

  /** For the moment in which a window goes away: hands the newest state to the browser without waiting. */
  flush(): void {
    if (!this.atRisk) return
    this.storage.leave?.(this.#document, this.#change)
    void this.#noteNow().catch(() => {})
  }

  /** Stores the newest state now; true when it is stored. */
  async save(): Promise<boolean> {
    clearTimeout(this.#timer)
    while (this.#saved < this.#change) {
      const before = this.#saved
      this.#saving ??= this.#saveNow().finally(() => {
        this.#saving = null
      })
      await this.#saving
      if (this.#saved === before) return false
    }
    return true
  }

  /** Stores what is not stored and ends; true when nothing is left. */
  async close(): Promise<boolean> {
    const done = await this.save()
    clearTimeout(this.#timer)
    return done
  }

  /** Writes the journal, one write at a time, until it holds the newest state. */
  #note(): void {
    this.#noting ??= this.#noteNow()
      .then(
        () => true,
        () => false,
      )
      .then((done) => {
        this.#noting = null
        if (done && this.#noted < this.#change) this.#note()
      })
  }

  async #noteNow(): Promise<void> {
    const change = this.#change
    await this.storage.journal(this.#document, change)
    this.#noted = Math.max(this.#noted, change)
  }

  async #saveNow(): Promise<void> {
    const change = this.#change
    try {
      await this.storage.save(this.#document, change)
      this.#saved = Math.max(this.#saved, change)
      this.#failures = 0
      this.state.set({ kind: this.#saved === this.#change ? 'kept' : 'under way' })
      if (this.#saved < this.#change) this.#later(SAVE_MS)
    } catch (error) {
      const conflict = error instanceof ConflictError
      const sentence = errorSentence(error)
      const now = this.state.value
      if (now.kind !== 'refused' || now.sentence !== sentence) {
        this.state.set({ kind: 'refused', sentence, conflict })
      }
      this.#failures++
      if (!conflict)
        this.#later(Math.min(LAST_RETRY_MS, FIRST_RETRY_MS * 2 ** (this.#failures - 1)))
    }
  }

  #later(ms: number): void {
    clearTimeout(this.#timer)
    this.#timer = setTimeout(() => void this.save(), ms)
  }
}
