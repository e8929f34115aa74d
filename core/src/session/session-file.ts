import { DocumentError, describeIssue } from './document-error'
import { parseJson } from './eq-file'
import { SESSION_VERSION } from './names'
import { type Session, sessionSchema } from './schema'

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
  const version = (value as { version?: unknown } | null)?.version
  if (typeof version === 'number' && version > SESSION_VERSION) {
    throw new DocumentError(
      `The session was made by a newer version (${version}); this one reads up to ${SESSION_VERSION}.`,
    )
  }
  const parsed = sessionSchema.safeParse(value)
  if (!parsed.success) throw describeIssue(parsed.error, 'session')
  return parsed.data
}

export function writeSession(session: Session): string {
  return JSON.stringify(session, null, 1)
}
