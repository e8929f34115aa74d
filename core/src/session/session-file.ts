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
  const parsed = sessionSchema.safeParse(version === 1 ? fromVersion1(value) : value)
  if (!parsed.success) throw describeIssue(parsed.error, 'session')
  return parsed.data
}

/** Version 1 had one lead, keys of dismissed findings alone, and evidence of masking moves only. */
function fromVersion1(value: unknown): unknown {
  const { leadId, dismissed, ...rest } = value as Record<string, unknown>
  const upgraded = {
    ...rest,
    version: SESSION_VERSION,
    leadIds: typeof leadId === 'string' ? [leadId] : [],
    // Their findings had other keys: they could not be recognised.
    dismissed: [],
  }
  if (dismissed !== undefined && !Array.isArray(dismissed)) return { ...upgraded, dismissed }
  return mapMoves(upgraded, (move) => {
    const { evidence } = move as { evidence?: Record<string, unknown> | null }
    if (!evidence) return move
    return {
      ...move,
      evidence: {
        findingKey: evidence.findingKey,
        measure: { of: 'heard', track: evidence.lead },
        before: evidence.heardBefore,
        predicted: evidence.heardPredicted,
      },
    }
  })
}

/** Applies a change to everything that stands in a list named `moves`, however deep. */
function mapMoves(value: unknown, change: (move: object) => unknown): unknown {
  if (Array.isArray(value)) return value.map((v) => mapMoves(v, change))
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(
    Object.entries(value).map(([key, v]) => [
      key,
      key === 'moves' && Array.isArray(v)
        ? v.map((m) => (typeof m === 'object' && m !== null ? change(m) : m))
        : mapMoves(v, change),
    ]),
  )
}

export function writeSession(session: Session): string {
  return JSON.stringify(session, null, 1)
}
