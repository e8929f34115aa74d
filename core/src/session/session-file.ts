import { DocumentError, parsedBy } from './document-error'
import { parseJson } from './eq-file'
import { MIGRATIONS } from './migrations'
import { isObject } from './migrations/loose'
import { SESSION_VERSION } from './names'
import { type Session, sessionSchema } from './schema'

/** Documents nest this deep at most; one that nests deeper is not a session. */
const DEEPEST = 64

/**
 * Reads a session document, bringing older versions up to date. Strict: what does not fit is told by its
 * path, and nothing is half-loaded.
 * @throws DocumentError
 */
export function parseSession(text: string): Session {
  return checkSession(parseJson(text, 'session'))
}

/** {@link parseSession} for a value that is already an object. */
export function checkSession(value: unknown): Session {
  if (depthOf(value) > DEEPEST) {
    throw new DocumentError('The session cannot be read: it nests deeper than a session does.')
  }
  return parsedBy(sessionSchema, isObject(value) ? upToDate(value) : value, 'session')
}

function upToDate(document: Record<string, unknown>): unknown {
  const { version } = document
  if (typeof version === 'number' && version > SESSION_VERSION) {
    throw new DocumentError(
      `The session was made by a newer version (${version}); this one reads up to ${SESSION_VERSION}.`,
    )
  }
  let at = document
  for (let v = version; typeof v === 'number' && Object.hasOwn(MIGRATIONS, v); v++) {
    at = MIGRATIONS[v](at)
  }
  return at
}

/** How deep a value nests, without recursion: it may nest deeper than the stack. */
function depthOf(value: unknown): number {
  let level = [value]
  let depth = 0
  while (level.length > 0 && depth <= DEEPEST) {
    depth++
    level = level.flatMap((v) => (typeof v === 'object' && v !== null ? Object.values(v) : []))
  }
  return depth
}

export function writeSession(session: Session): string {
  return JSON.stringify(session, null, 1)
}
