import type { JournalEntry } from './database'

/**
 * What a window says of a session when it goes away: the browser's database may be too slow to take it then, this
 * small storage takes it at once. One entry for each session and window, gone when the session is opened again.
 */
const PREFIX = 'sober-prism last words'

const keyOf = (id: string, writer: string) => `${PREFIX} ${id} ${writer}`

/** Leaves a state; where that is refused, the database has what it has. */
export function leaveLastWords(entry: JournalEntry): void {
  try {
    localStorage.setItem(keyOf(entry.id, entry.writer), JSON.stringify(entry))
  } catch {
    // Too long, full, or not allowed.
  }
}

/** What windows left of a session. */
export function lastWords(id: string): JournalEntry[] {
  return keysOf(id).flatMap((key): JournalEntry[] => {
    try {
      const entry = JSON.parse(localStorage.getItem(key) ?? 'null') as Partial<JournalEntry> | null
      const { base, writer, change } = entry ?? {}
      const isWhole = typeof writer === 'string' && Number.isFinite(base) && Number.isFinite(change)
      return isWhole ? [entry as JournalEntry] : []
    } catch {
      return []
    }
  })
}

export function forgetLastWords(id: string): void {
  try {
    for (const key of keysOf(id)) localStorage.removeItem(key)
  } catch {
    // They are older than what is stored by now.
  }
}

function keysOf(id: string): string[] {
  try {
    return Object.keys(localStorage).filter((key) => key.startsWith(keyOf(id, '')))
  } catch {
    return []
  }
}

/** The newest entry of each window. */
export function newestOfEach(entries: readonly JournalEntry[]): JournalEntry[] {
  const newest = new Map<string, JournalEntry>()
  for (const entry of entries) {
    if (entry.change > (newest.get(entry.writer)?.change ?? -1)) newest.set(entry.writer, entry)
  }
  return [...newest.values()]
}
