import type { Session } from '@sober-prism/core/session'
import { type DBSchema, type IDBPDatabase, openDB } from 'idb'
import { EngineError } from '../engine-error'

/** What is kept of a session besides its document. */
export interface StoredSession {
  readonly id: string
  readonly document: Session
  readonly updatedAt: number
  /** Set while a deletion can still be undone. */
  readonly deletedAt: number | null
}

interface Tables extends DBSchema {
  sessions: { key: string; value: StoredSession }
  /** One channel of samples per entry, by content hash and channel. */
  samples: { key: [string, number]; value: ArrayBuffer }
  /** When the samples of a hash were stored: fresh ones may belong to a session that is not saved yet. */
  stamps: { key: string; value: number }
  /** Results of measuring, by what they were computed from. */
  results: { key: string; value: unknown }
  resultSizes: { key: string; value: { bytes: number; at: number } }
}

export type Database = IDBPDatabase<Tables>

let opened: Promise<Database> | undefined

/** Opens the storage of this browser. @throws EngineError when the browser refuses. */
export function database(): Promise<Database> {
  opened ??= openDB<Tables>('sober-prism', 2, {
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
    },
  }).catch((error: unknown) => {
    opened = undefined
    throw storageError(error)
  })
  return opened
}

/** Says what a refused write means. Nothing that was stored before is lost: writes are whole or not at all. */
export function storageError(error: unknown): EngineError {
  const name = error instanceof Error ? error.name : ''
  if (name === 'QuotaExceededError') {
    return new EngineError(
      'The disk space this browser gives is full. What was stored before is kept; make room and try again.',
    )
  }
  return new EngineError(
    'This browser refuses to store sessions (a private window may do that). Save the session as a file before you leave.',
  )
}
