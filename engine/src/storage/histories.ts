import { checkSession, type Session } from '@sober-prism/core/session'
import { database, databaseNow } from './database'

/** The states that undo and redo go back and forth to, the nearest last. */
export interface EditHistory {
  readonly past: readonly Session[]
  readonly present: Session
  readonly future: readonly Session[]
}

/** So many steps of undo are kept for the next time, of so many bytes at most, and so long. */
const MOST_STEPS = 100
const MOST_BYTES = 4e6
const KEEP_MS = 30 * 86_400_000

/**
 * The nearest steps of a history, as many as are kept. States share what did not change from one to the next, and that
 * is stored once: it is counted once.
 */
export function boundedHistory({ past, present, future }: EditHistory): EditHistory {
  const counted = new Set<unknown>()
  let bytes = 0
  const isWithin = (state: Session): boolean => {
    for (const part of partsOf(state)) {
      if (counted.has(part)) continue
      counted.add(part)
      bytes += JSON.stringify(part)?.length ?? 0
    }
    return bytes <= MOST_BYTES
  }
  isWithin(present)
  const nearest = (states: readonly Session[]) => {
    let from = states.length
    while (from > 0 && states.length - from < MOST_STEPS && isWithin(states[from - 1])) from--
    return states.slice(from)
  }
  return { past: nearest(past), present, future: nearest(future) }
}

/** What states may share: the entries of their lists, and all else as it stands in them. */
function partsOf(state: Session): unknown[] {
  return Object.values(state).flatMap((value: unknown) => (Array.isArray(value) ? value : [value]))
}

/**
 * Keeps a history. It needs nothing but this call: the browser finishes it though the page goes away. What cannot be
 * kept is not: the session itself is stored elsewhere.
 */
export async function saveHistory(history: EditHistory): Promise<void> {
  const kept = boundedHistory(history)
  try {
    const db = databaseNow() ?? (await database())
    await db.put('histories', { id: history.present.id, at: Date.now(), ...kept })
  } catch {
    // A browser without room goes on without it.
  }
}

/**
 * The history of a session as it was kept, for the state that is stored of it now; null where there is none, or it cannot
 * be read.
 */
export async function loadHistory(session: Session): Promise<Omit<EditHistory, 'present'> | null> {
  try {
    const stored = await (await database()).get('histories', session.id)
    if (!stored) return null
    const read = (states: readonly unknown[]) => states.map((s) => checkSession(s))
    const past = read(stored.past)
    const present = checkSession(stored.present)
    // Checked, both have their fields in one order.
    if (isSameWork(present, checkSession(session))) return { past, future: read(stored.future) }
    // The page went away before its last change came into the history: that is a step of its own.
    return { past: [...past, present], future: [] }
  } catch {
    // Undo is a comfort: a session opens without it.
    return null
  }
}

/** Whether two states differ in nothing but what is for listening only. */
function isSameWork(a: Session, b: Session): boolean {
  const work = (session: Session) =>
    JSON.stringify(session, (key, value) => (key === 'solo' || key === 'lift' ? undefined : value))
  return work(a) === work(b)
}

/** Whether a history was left so long ago that it is not kept any more. */
export function isOldHistory({ at }: { readonly at: number }): boolean {
  return Date.now() - at > KEEP_MS
}
