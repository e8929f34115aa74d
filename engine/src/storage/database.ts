import { type DBSchema, type IDBPDatabase, openDB } from 'idb'
import { EngineError } from '../engine-error'
import { Signal } from '../signal'

/** What to save of a session besides its document, which is checked only when it is opened. */
export interface StoredSession {
  readonly id: string
  readonly document: unknown
  readonly updatedAt: number
  /** Set while a deletion can still be undone. */
  readonly deletedAt: number | null
  /** Counts the times it was stored, so that two windows do not overwrite each other unseen. */
  readonly revision?: number
  /** The window that stored it, and up to which of its changes. */
  readonly writer?: string
  readonly change?: number
}

/** A window's newest state of a session that is not among the sessions yet. */
export interface JournalEntry {
  readonly id: string
  readonly document: unknown
  /** The revision of the stored session that it was made from. */
  readonly base: number
  /** The window that wrote it, and its how manieth change it holds. */
  readonly writer: string
  readonly change: number
}

/** An earlier state of a session. */
export interface StoredVersion {
  readonly id: string
  readonly revision: number
  readonly document: unknown
  readonly at: number
  /** When the first of the states was stored whose place it took. */
  readonly since: number
}

/** What to save of a recording besides its samples. */
export interface StoredRecording {
  /** The first part of the keys of its blocks. */
  readonly blocks: string
  readonly channels: number
  readonly frames: number
  /** Largest amplitude of each stretch of `PEAK_FRAMES`, for overviews. */
  readonly peaks: Float32Array
  readonly storedAt: number
}

/** A preset under its name: an older version's text is read as that version's file would be. */
interface StoredPreset {
  readonly id: string
  readonly file: string
  readonly storedAt: number
}

/** Earlier and undone states of a session. */
interface StoredHistory {
  readonly id: string
  readonly at: number
  readonly past: readonly unknown[]
  readonly present: unknown
  readonly future: readonly unknown[]
}

/** The recording of an impulse. */
export interface StoredImpulse {
  readonly id: string
  readonly name: string
  readonly sampleRateHz: number
  readonly channels: readonly Float32Array[]
  readonly storedAt: number
}

interface Tables extends DBSchema {
  sessions: { key: string; value: StoredSession }
  /** One entry for each session and window. */
  journal: { key: [string, string]; value: JournalEntry }
  /** Earlier states, by session and revision. */
  versions: { key: [string, number]; value: StoredVersion }
  /** Recordings by the hash of their content. */
  recordings: { key: string; value: StoredRecording }
  /** Samples of `BLOCK_FRAMES` frames, one channel after the other, by recording and place. */
  blocks: { key: [string, number]; value: Float32Array | Int16Array }
  /** Whole channels, as versions 1 and 2 stored them. */
  samples: { key: [string, number]; value: ArrayBuffer }
  /** When the samples of versions 1 and 2 were stored. */
  stamps: { key: string; value: number }
  /** Results of measuring, by what they were computed from. */
  results: { key: string; value: unknown }
  resultSizes: { key: string; value: { bytes: number; at: number } }
  /** The user's presets, each as a file of presets that holds it alone; checked when it is read. */
  presets: { key: string; value: StoredPreset }
  /** What undo and redo go to, by session; checked when it is read. */
  histories: { key: string; value: StoredHistory }
  /** Profiles of references, each as its file; checked when it is read. */
  profiles: { key: string; value: StoredPreset }
  /** Recordings of impulses that one listens through. */
  impulses: { key: string; value: StoredImpulse }
}

export type Database = IDBPDatabase<Tables>

const VERSION = 8

/** What stands between this page and its storage, as a sentence; null when nothing does. */
export const storageTrouble = new Signal<string | null>(null)

const REMOVED =
  'The data of this site was removed from this browser, audio included. The open session is still here: export it as a file, or import its audio again.'

let opened: Promise<Database> | undefined
let at: Database | null = null

/** The storage as far as it is open: for the moment in which a page goes away and cannot wait. */
export function databaseNow(): Database | null {
  return at
}

/** Opens the storage of this browser. @throws EngineError when the browser refuses. */
export function database(): Promise<Database> {
  opened ??= openDB<Tables>('sober-prism', VERSION, {
    upgrade(db, before) {
      if (before < 1) {
        db.createObjectStore('sessions', { keyPath: 'id' })
        db.createObjectStore('samples')
        db.createObjectStore('stamps')
      }
      if (before < 2) {
        db.createObjectStore('results')
        db.createObjectStore('resultSizes')
      }
      if (before < 3) {
        db.createObjectStore('recordings')
        db.createObjectStore('blocks')
      }
      if (before < 4) {
        db.createObjectStore('journal', { keyPath: ['id', 'writer'] })
        db.createObjectStore('versions', { keyPath: ['id', 'revision'] })
      }
      if (before < 5) db.createObjectStore('presets', { keyPath: 'id' })
      if (before < 6) db.createObjectStore('profiles', { keyPath: 'id' })
      if (before < 7) db.createObjectStore('histories', { keyPath: 'id' })
      if (before < 8) db.createObjectStore('impulses', { keyPath: 'id' })
    },
    blocked() {
      storageTrouble.set(
        'An older version is open in another window. Close that window to continue here.',
      )
    },
    blocking(_, wanted) {
      // Another window waits for this one to let go: it steps aside and says so.
      void opened?.then((db) => db.close())
      at = null
      if (wanted === null) {
        // Everything is being removed; what is open here can be stored anew.
        opened = undefined
        storageTrouble.set(REMOVED)
        return
      }
      storageTrouble.set('A newer version is open in another window. Reload this page.')
    },
    terminated() {
      opened = undefined
      at = null
      storageTrouble.set(REMOVED)
    },
  })
    .then((db) => {
      if (storageTrouble.value !== REMOVED) storageTrouble.set(null)
      at = db
      return db
    })
    .catch((error: unknown) => {
      opened = undefined
      throw storageError(error)
    })
  return opened
}

/** Says what a refused write means. Nothing that was stored before is lost: writes are whole or not at all. */
export function storageError(error: unknown): EngineError {
  if (error instanceof EngineError) return error
  const name = error instanceof Error ? error.name : ''
  if (name === 'QuotaExceededError') {
    return new EngineError('Browser storage is full. Earlier data is safe; free space and retry.')
  }
  if (name === 'VersionError') {
    return new EngineError(
      'A newer version has used this browser’s storage. Reload the page to get it.',
    )
  }
  if (name === 'InvalidStateError') {
    return new EngineError('A newer version is open in another window. Reload this page.')
  }
  return new EngineError(
    'This browser refuses to store sessions (a private window may do that). Export the session as a file before you leave.',
  )
}
