import { type Database, database } from './database'
import { isOldHistory } from './histories'
import { forgetLastWords } from './last-words'
import { tidyRecordings } from './recordings'
import { isDeleted, ofSession, ofWindows, openedKey } from './sessions'

const KEEP_MS = 86_400_000

/**
 * Removes sessions deleted more than a day ago with all that is kept of them, and recordings that no session uses
 * any more. While any window works with audio nothing is removed: its undo may need it. Recordings stored within a
 * day stay too.
 */
export async function tidy(): Promise<void> {
  if (typeof navigator === 'undefined' || !navigator.locks) return tidyNow()
  await navigator.locks.request(AUDIO_LOCK, { ifAvailable: true }, async (lock) => {
    if (lock) await tidyNow()
  })
}

const AUDIO_LOCK = 'sober-prism audio in use'

/** Tells all windows that this one works with audio, until the function it returns is called. */
export function holdAudio(): () => void {
  if (typeof navigator === 'undefined' || !navigator.locks) return () => {}
  let release = () => {}
  const held = new Promise<void>((resolve) => {
    release = resolve
  })
  navigator.locks.request(AUDIO_LOCK, { mode: 'shared' }, () => held).catch(() => {})
  return release
}

async function tidyNow(): Promise<void> {
  const db = await database()
  const oldest = Date.now() - KEEP_MS
  const used = new Set<string>()
  for (const stored of await db.getAll('sessions')) {
    if (isDeleted(stored) && (stored.deletedAt ?? 0) < oldest) {
      await removeSession(db, stored.id)
      await db.delete('stamps', openedKey(stored.id))
    } else addHashes(stored.document, used)
  }
  for (const { document } of await db.getAll('journal')) addHashes(document, used)
  for (const { document } of await db.getAll('versions')) addHashes(document, used)
  for (const history of await db.getAll('histories')) {
    if (isOldHistory(history)) await db.delete('histories', history.id)
    else addHashes(history, used)
  }
  await tidyRecordings(used, oldest)
}

async function removeSession(db: Database, id: string): Promise<void> {
  const all = db.transaction(['sessions', 'journal', 'versions', 'histories'], 'readwrite')
  await all.objectStore('histories').delete(id)
  await all.objectStore('sessions').delete(id)
  await all.objectStore('journal').delete(ofWindows(id))
  await all.objectStore('versions').delete(ofSession(id))
  await all.done
  forgetLastWords(id)
}

const HASH = /^[0-9a-f]{64}$/

/** Adds every content hash that a document names, wherever it stands: it may be one that cannot be read. */
function addHashes(document: unknown, used: Set<string>): void {
  const left = [document]
  while (left.length > 0) {
    const value = left.pop()
    if (typeof value === 'string' && HASH.test(value)) used.add(value)
    else if (typeof value === 'object' && value !== null) {
      for (const inner of Object.values(value)) left.push(inner)
    }
  }
}
