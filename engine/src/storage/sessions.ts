import { checkSession, type Session } from '@sober-prism/core/session'
import { EngineError } from '../engine-error'
import { type Database, database, type StoredSession, storageError } from './database'
import { tidyRecordings } from './recordings'

/** A line in the list of sessions. */
export interface SessionEntry {
  readonly id: string
  readonly name: string
  readonly tracks: number
  readonly updatedAt: number
}

const JOURNAL_KEY = 'sober-prism.journal'
const KEEP_MS = 86_400_000

/** Another window stored a newer state of the session than the one this window started from. */
export class ConflictError extends EngineError {}

/** Revisions of the sessions that this window has read or written last. */
const revisions = new Map<string, number>()

/** Sessions that are not deleted, newest first. */
export async function listSessions(): Promise<SessionEntry[]> {
  const db = await database()
  const all = await db.getAll('sessions')
  return all
    .filter((s) => s.deletedAt === null)
    .sort((a, b) => b.updatedAt - a.updatedAt)
    .map(({ id, document, updatedAt }) => ({
      id,
      name: document.name,
      tracks: document.tracks.length,
      updatedAt,
    }))
}

/** Reads a session, with what the journal kept from a page that was closed in the middle. */
export async function loadSession(id: string): Promise<Session | null> {
  const db = await database()
  const stored = await db.get('sessions', id)
  if (!stored || stored.deletedAt !== null) return null
  revisions.set(id, stored.revision ?? 0)
  const journal = readJournal()
  const document =
    journal && journal.id === id && journal.updatedAt > stored.updatedAt
      ? journal.document
      : stored.document
  return checkSession(document)
}

/**
 * Stores a session.
 * @throws ConflictError when another window has stored it since this one read it; EngineError when the browser
 * refuses. The older version stays.
 */
export async function saveSession(document: Session): Promise<void> {
  const db = await database()
  try {
    await put(db, document)
  } catch (error) {
    throw storageError(error)
  }
}

async function put(db: Database, document: Session): Promise<void> {
  const { id } = document
  const transaction = db.transaction('sessions', 'readwrite')
  const stored = await transaction.store.get(id)
  const known = revisions.get(id)
  if (stored && known !== undefined && (stored.revision ?? 0) !== known) {
    throw new ConflictError(
      'This session was changed in another window since it was opened here. What you did here is still on the screen: save it as a file, or take over here.',
    )
  }
  const revision = (stored?.revision ?? 0) + 1
  await transaction.store.put({
    id,
    document,
    updatedAt: Date.now(),
    deletedAt: null,
    revision,
  })
  await transaction.done
  revisions.set(id, revision)
}

/** Lets this window's next {@link saveSession} of a session go ahead, whatever another window stored. */
export async function takeOverSession(id: string): Promise<void> {
  const stored = await (await database()).get('sessions', id)
  revisions.set(id, stored?.revision ?? 0)
}

/** Writes at once, for the moment a page goes away: storage proper would come too late. */
export function journalSession(document: Session): void {
  try {
    const entry = { id: document.id, document, updatedAt: Date.now(), deletedAt: null }
    localStorage.setItem(JOURNAL_KEY, JSON.stringify(entry))
  } catch {
    // A full or refused journal leaves the regular storage, which is at most a moment older.
  }
}

function readJournal(): StoredSession | null {
  try {
    return JSON.parse(localStorage.getItem(JOURNAL_KEY) ?? 'null') as StoredSession | null
  } catch {
    return null
  }
}

/** Hides a session; {@link restoreSession} brings it back. */
export async function deleteSession(id: string): Promise<void> {
  await mark(id, Date.now())
}

export async function restoreSession(id: string): Promise<void> {
  await mark(id, null)
}

async function mark(id: string, deletedAt: number | null): Promise<void> {
  const db = await database()
  const stored = await db.get('sessions', id)
  if (stored) await db.put('sessions', { ...stored, deletedAt })
}

/**
 * Removes sessions deleted more than a day ago, and recordings that no session uses any more. Recordings
 * stored within a day stay: they may be on their way into a session, here or in another window.
 */
export async function tidy(): Promise<void> {
  const db = await database()
  const oldest = Date.now() - KEEP_MS
  const used = new Set<string>()
  for (const stored of await db.getAll('sessions')) {
    if (stored.deletedAt !== null && stored.deletedAt < oldest) {
      await db.delete('sessions', stored.id)
    } else for (const hash of hashes(stored.document)) used.add(hash)
  }
  await tidyRecordings(used, oldest)
}

function hashes(document: Session): string[] {
  return [...document.tracks, ...document.references].map((t) => t.audio.hash)
}
