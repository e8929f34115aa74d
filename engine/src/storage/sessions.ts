import { checkSession, DocumentError, type Session, sessionFrames } from '@sober-prism/core/session'
import { EngineError } from '../engine-error'
import {
  type Database,
  database,
  databaseNow,
  type JournalEntry,
  type StoredSession,
  type StoredVersion,
  storageError,
} from './database'
import { forgetLastWords, lastWords, leaveLastWords, newestOfEach } from './last-words'
import { recordedBytes } from './recordings'

/** A line in the list of sessions. */
export interface SessionEntry {
  readonly id: string
  readonly name: string
  readonly tracks: number
  /** Length of the piece; null where the document does not say. */
  readonly seconds: number | null
  /** What its recordings take in storage, those included that other sessions hold as well. */
  readonly bytes: number
  readonly updatedAt: number
  /** When it was last opened here; null before that. */
  readonly openedAt: number | null
}

/** Earlier states that are kept of a session, and the least time between two of them. */
const MOST_VERSIONS = 5
const VERSION_MS = 600_000

/** Another window stored a newer state of the session than the one this window started from, or deleted it. */
export class ConflictError extends EngineError {}

/** What is stored of a session cannot be read; it stays as it is. */
export class UnreadableError extends EngineError {
  constructor(
    readonly sessionId: string,
    reason: string,
    /** When the last state that can be read was stored; null when there is none. */
    readonly lastGoodAt: number | null,
  ) {
    super(`${reason} Nothing of it was changed.`)
  }
}

/** What opening a session came to. */
export interface LoadedSession {
  readonly session: Session
  /** Sessions that were made of changes found here which another window had overtaken. */
  readonly rescued: readonly string[]
}

/** This window, among those that write journals. */
const WRITER = crypto.randomUUID()

/** Revisions of the sessions that this window has read or written last. */
const revisions = new Map<string, number>()

/** Sessions that are not deleted, newest first; one that cannot be read is listed all the same. */
export async function listSessions(): Promise<SessionEntry[]> {
  const db = await database()
  const all = await db.getAll('sessions')
  const listed = all
    .filter((s) => s.deletedAt === null || s.deletedAt === undefined)
    .sort((a, b) => (b.updatedAt || 0) - (a.updatedAt || 0))
  return Promise.all(
    listed.map(async ({ id, document, updatedAt }): Promise<SessionEntry> => {
      const session = read(document)
      const { name, tracks } = (document ?? {}) as { name?: unknown; tracks?: unknown }
      return {
        id,
        name: typeof name === 'string' ? name : 'A session that cannot be read',
        tracks: Array.isArray(tracks) ? tracks.length : 0,
        seconds: isRefused(session) ? null : sessionFrames(session) / session.sampleRateHz,
        bytes: isRefused(session) ? 0 : await recordedBytes(session),
        updatedAt: Number.isFinite(updatedAt) ? updatedAt : 0,
        openedAt: (await db.get('stamps', openedKey(id))) ?? null,
      }
    }),
  )
}

/** Notes that a session is opened now. */
async function noteOpened(id: string): Promise<void> {
  const db = await database()
  await db.put('stamps', Date.now(), openedKey(id))
}

/** Where the time stands at which a session was opened last. */
export const openedKey = (id: string) => `opened ${id}`

/**
 * Reads a session with what the journal kept from a window that was closed in the middle, and writes that back; null
 * when there is none.
 * @throws UnreadableError when neither can be read; what is stored stays.
 */
export async function loadSession(id: string): Promise<LoadedSession | null> {
  const db = await database()
  const all = db.transaction(['sessions', 'journal', 'versions'], 'readwrite')
  const sessions = all.objectStore('sessions')
  const journal = all.objectStore('journal')
  const stored = await sessions.get(id)
  if (!stored || isDeleted(stored)) return null
  const revision = stored.revision ?? 0
  const entries = [...(await journal.getAll(ofWindows(id))), ...lastWords(id)]
  const notes = sortNotes(newestOfEach(entries), stored)
  const main = read(stored.document)
  const fresh = notes.newer[0] ?? (isRefused(main) ? notes.apart[0] : undefined)
  const session = fresh?.session ?? main
  if (isRefused(session)) {
    const versions = await all.objectStore('versions').getAll(ofSession(id))
    const good = versions.findLast((v) => !isRefused(read(v.document)))
    throw new UnreadableError(id, session.reason, good?.at ?? null)
  }
  let now = revision
  if (fresh) {
    now = revision + 1
    const { writer, change } = fresh.note
    const updatedAt = Date.now()
    const document = session
    await sessions.put({ ...stored, document, revision: now, updatedAt, writer, change })
  }
  const rescued: string[] = []
  for (const note of [...notes.newer, ...notes.apart]) {
    if (note === fresh) continue
    const copy = rescuedFrom(note.session, crypto.randomUUID())
    rescued.push(copy.id)
    await sessions.put(copy)
  }
  for (const [i, { document }] of notes.unreadable.entries()) {
    // They may be a newer version's: they are set aside, where they are in nobody's way.
    const aside = { id, revision: revision + (i + 1) / (notes.unreadable.length + 1) }
    const now = Date.now()
    await all.objectStore('versions').put({ ...aside, at: now, since: 0, document })
  }
  await journal.delete(ofWindows(id))
  await keepVersion(all.objectStore('versions'), { id, revision: now, document: session })
  await all.done
  revisions.set(id, now)
  forgetLastWords(id)
  await noteOpened(id)
  return { session, rescued }
}

interface Noted {
  readonly note: JournalEntry
  readonly session: Session
}

interface Notes {
  /** Made from the stored state. */
  readonly newer: Noted[]
  /** Made from a state that another window has overtaken. */
  readonly apart: Noted[]
  readonly unreadable: JournalEntry[]
}

/** What the journal holds of a session, without what is stored already. */
function sortNotes(notes: readonly JournalEntry[], stored: StoredSession): Notes {
  const sorted: Notes = { newer: [], apart: [], unreadable: [] }
  for (const note of notes) {
    const order = orderOf(note, stored)
    if (order === 'older') continue
    const session = read(note.document)
    if (isRefused(session)) sorted.unreadable.push(note)
    else sorted[order].push({ note, session })
  }
  return sorted
}

function orderOf(note: JournalEntry, stored: StoredSession): 'newer' | 'older' | 'apart' {
  if (note.writer === stored.writer) {
    return note.change > (stored.change ?? 0) ? 'newer' : 'older'
  }
  return note.base === (stored.revision ?? 0) ? 'newer' : 'apart'
}

/** Changes that another window overtook, as a session of their own: neither is lost. */
function rescuedFrom(session: Session, id: string): StoredSession {
  const name = `${session.name} (changes from another window)`.slice(0, 200)
  const document = { ...session, id, name }
  return { id, document, updatedAt: Date.now(), deletedAt: null, revision: 1 }
}

interface Refused {
  readonly reason: string
}

function isRefused(result: Session | Refused): result is Refused {
  return 'reason' in result
}

function read(document: unknown): Session | Refused {
  try {
    return checkSession(document)
  } catch (error) {
    if (error instanceof DocumentError) return { reason: error.message }
    throw error
  }
}

export function isDeleted({ deletedAt }: StoredSession): boolean {
  return typeof deletedAt === 'number'
}

export function ofSession(id: string): IDBKeyRange {
  return IDBKeyRange.bound([id, 0], [id, Number.MAX_SAFE_INTEGER])
}

/** Journal entries of all windows. */
export function ofWindows(id: string): IDBKeyRange {
  return IDBKeyRange.bound([id, ''], [id, '\uffff'])
}

type VersionStore = {
  getAll(range: IDBKeyRange): Promise<StoredVersion[]>
  put(value: StoredVersion): Promise<unknown>
  delete(key: [string, number]): Promise<unknown>
}

/** Keeps a state that can be read among the last few: the newest always, those before it some time apart. */
async function keepVersion(
  versions: VersionStore,
  version: { id: string; revision: number; document: Session },
): Promise<void> {
  const { id } = version
  const kept = await versions.getAll(ofSession(id))
  const last = kept.at(-1)
  const now = Date.now()
  const since = last && Math.abs(now - last.since) < VERSION_MS ? last.since : now
  if (last && since === last.since) await versions.delete([id, last.revision])
  await versions.put({ ...version, at: now, since })
  for (const old of kept.slice(0, Math.max(0, kept.length + 1 - MOST_VERSIONS))) {
    await versions.delete([id, old.revision])
  }
}

/**
 * Stores a session.
 * @param change the how manieth change of this window it holds: what the journal has of later ones is newer. 0 for a session that
 * nobody works on.
 * @throws ConflictError when another window stored or deleted it since this one read it; EngineError when the
 * browser refuses, or the document could not be read again. What was stored before stays.
 */
export async function saveSession(document: Session, change = 0): Promise<void> {
  const checked = read(document)
  if (isRefused(checked)) {
    throw new EngineError(
      `The session cannot be stored as it is. ${checked.reason} Undo the last change, or export the session.`,
    )
  }
  try {
    await put(await database(), document, change)
  } catch (error) {
    throw storageError(error)
  }
}

async function put(db: Database, document: Session, change: number): Promise<void> {
  const { id } = document
  // The journal is left out: it must be free for the next change at any moment. What it holds of this one is older
  // than what is stored from now on, and goes when the session is opened again.
  const all = db.transaction(['sessions', 'versions'], 'readwrite')
  const sessions = all.objectStore('sessions')
  const stored = await sessions.get(id)
  const known = revisions.get(id)
  if (stored && known !== undefined) refuseOvertaken(stored, known)
  const revision = Math.max(stored?.revision ?? 0, known ?? 0) + 1
  const updatedAt = Date.now()
  const by = { writer: WRITER, change }
  await sessions.put({ id, document, updatedAt, deletedAt: null, revision, ...by })
  await keepVersion(all.objectStore('versions'), { id, revision, document })
  await all.done
  revisions.set(id, revision)
}

function refuseOvertaken(stored: StoredSession, known: number): void {
  if (isDeleted(stored)) {
    throw new ConflictError(
      'This session was deleted in another window. Your work here is still open: keep it or discard it.',
    )
  }
  if ((stored.revision ?? 0) !== known) {
    throw new ConflictError(
      'This session was changed in another window since it was opened here. Your work here is still open: export it, or take over here.',
    )
  }
}

/** Lets this window's next {@link saveSession} of a session go ahead, whatever another window did to it. */
export async function takeOverSession(id: string): Promise<void> {
  const db = await database()
  const transaction = db.transaction('sessions', 'readwrite')
  const stored = await transaction.store.get(id)
  if (stored && isDeleted(stored)) await transaction.store.put({ ...stored, deletedAt: null })
  await transaction.done
  revisions.set(id, stored?.revision ?? 0)
}

/**
 * Notes a state of a session at once. It needs nothing but this call: the browser finishes it though the page goes
 * away. The promise tells when it is down. @throws EngineError
 */
export async function journalSession(document: Session, change: number): Promise<void> {
  try {
    const db = databaseNow() ?? (await database())
    const transaction = db.transaction('journal', 'readwrite', { durability: 'relaxed' })
    const base = revisions.get(document.id) ?? 0
    const noted = transaction.store.put({ id: document.id, document, base, writer: WRITER, change })
    transaction.commit?.()
    await Promise.all([noted, transaction.done])
  } catch (error) {
    throw storageError(error)
  }
}

/** Leaves a state where it is down at once, for the moment in which the window goes away. */
export function leaveSession(document: Session, change: number): void {
  const base = revisions.get(document.id) ?? 0
  leaveLastWords({ id: document.id, document, base, writer: WRITER, change })
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
  const transaction = db.transaction('sessions', 'readwrite')
  const stored = await transaction.store.get(id)
  if (stored) await transaction.store.put({ ...stored, deletedAt })
  await transaction.done
}

/** All that is stored of a session, readable or not, as JSON: for when nothing else is left. @throws EngineError */
export async function exportRaw(id: string): Promise<string> {
  const db = await database()
  const stored = await db.get('sessions', id)
  const journal = await db.getAll('journal', ofWindows(id))
  const versions = await db.getAll('versions', ofSession(id))
  return JSON.stringify({ stored, journal, versions }, null, 1)
}

/** Puts the last state of a session that can be read in the place of one that cannot. Null when there is none. */
export async function restoreLastGood(id: string): Promise<Session | null> {
  const db = await database()
  const all = db.transaction(['sessions', 'journal', 'versions'], 'readwrite')
  const versions = await all.objectStore('versions').getAll(ofSession(id))
  for (const { document } of versions.reverse()) {
    const session = read(document)
    if (isRefused(session)) continue
    const sessions = all.objectStore('sessions')
    const stored = await sessions.get(id)
    const revision = (stored?.revision ?? 0) + 1
    // What cannot be read stays beside it.
    const damaged = { id, revision: (stored?.revision ?? 0) - 0.5, at: Date.now(), since: 0 }
    if (stored) await all.objectStore('versions').put({ ...damaged, document: stored.document })
    await sessions.put({ id, document: session, updatedAt: Date.now(), deletedAt: null, revision })
    await all.objectStore('journal').delete(ofWindows(id))
    await all.done
    return session
  }
  return null
}
