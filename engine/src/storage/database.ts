import type { Session } from '@sober-prism/core/session'
import { type DBSchema, type IDBPDatabase, openDB } from 'idb'
import { EngineError } from '../engine-error'
import { Signal } from '../signal'

/** What is kept of a session besides its document. */
export interface StoredSession {
  readonly id: string
  readonly document: Session
  readonly updatedAt: number
  /** Set while a deletion can still be undone. */
  readonly deletedAt: number | null
  /** Counts the times it was stored, so that two windows do not overwrite each other unseen. */
  readonly revision?: number
}

/** What is kept of a recording besides its samples. */
export interface StoredRecording {
  /** The first part of the keys of its blocks. */
  readonly blocks: string
  readonly channels: number
  readonly frames: number
  /** Largest amplitude of each stretch of `PEAK_FRAMES`, for overviews. */
  readonly peaks: Float32Array
  readonly storedAt: number
}

interface Tables extends DBSchema {
  sessions: { key: string; value: StoredSession }
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
}

export type Database = IDBPDatabase<Tables>

const VERSION = 3

/** What stands between this page and its storage, as a sentence; null when nothing does. */
export const storageTrouble = new Signal<string | null>(null)

let opened: Promise<Database> | undefined

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
    },
    blocked() {
      storageTrouble.set(
        'An older version of Sober Prism is open in another window. Close that window; this one goes on by itself.',
      )
    },
    blocking() {
      // A newer version waits in another window: this one steps aside and says so.
      void opened?.then((db) => db.close())
      storageTrouble.set(
        'A newer version of Sober Prism was opened in another window. Reload this page to go on here.',
      )
    },
    terminated() {
      opened = undefined
    },
  })
    .then((db) => {
      storageTrouble.set(null)
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
    return new EngineError(
      'The disk space this browser gives is full. What was stored before is kept; make room and try again.',
    )
  }
  if (name === 'VersionError') {
    return new EngineError(
      'A newer version of Sober Prism has used this browser’s storage. Reload the page to get that version.',
    )
  }
  if (name === 'InvalidStateError') {
    return new EngineError(
      'This page has let go of its storage, because a newer version is open in another window. Reload the page.',
    )
  }
  return new EngineError(
    'This browser refuses to store sessions (a private window may do that). Save the session as a file before you leave.',
  )
}
