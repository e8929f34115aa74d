import type { z } from 'zod'

/** A document (session, EQ file) that cannot be accepted. The message names the place and the reason. */
export class DocumentError extends Error {
  override readonly name = 'DocumentError'
}

/** The first problem Zod found, as one sentence with the path of the field. */
export function describeIssue(error: z.ZodError, what: string): DocumentError {
  const issue = error.issues[0]
  const path = issue.path.map((p) => (typeof p === 'number' ? `[${p}]` : `.${String(p)}`)).join('')
  const place = path === '' ? what : `${what} at ${path.replace(/^\./, '')}`
  return new DocumentError(`The ${place} cannot be read: ${issue.message}.`)
}
