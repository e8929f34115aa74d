import type { Edit, Session } from '@sober-prism/core/session'

const MOST_VARIATIONS = 9

/**
 * Keeps what stands as a variation and goes on in another one of a name: where none was kept yet, what stands is kept
 * as one of its own first. Null where there is no room for that.
 */
export function keepEdits(session: Session, name: string, now = new Date()): Edit[] | null {
  const count = session.variations.list.length
  if (count + (count === 0 ? 2 : 1) > MOST_VARIATIONS) return null
  const keep = (called: string): Edit => ({
    kind: 'keep-variation',
    id: crypto.randomUUID(),
    name: called.slice(0, 60),
    keptAt: now.toISOString(),
  })
  return [...(count === 0 ? [keep('As it was')] : []), keep(name)]
}

/** Why no other one can be kept. */
export const NO_ROOM = 'There are nine variations. Remove one in Check first.'
