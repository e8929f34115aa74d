import type { z } from 'zod'

/** A document (session, EQ file) that cannot be accepted. The message names the place and the reason. */
export class DocumentError extends Error {
  override readonly name = 'DocumentError'
}

/**
 * What a schema makes of a value that was read from somewhere. @throws DocumentError that names the place; also where
 * the checking itself stumbles over a value that only looks like one of the right kind.
 */
export function parsedBy<T>(schema: z.ZodType<T>, value: unknown, what: string): T {
  let parsed: z.ZodSafeParseResult<T>
  try {
    parsed = schema.safeParse(value)
  } catch {
    throw new DocumentError(
      `The ${what} cannot be read: a value in it is of no kind that fits there.`,
    )
  }
  if (!parsed.success) throw describeIssue(parsed.error, what)
  return parsed.data
}

/** The first problem Zod found, as one sentence with the path of the field. */
export function describeIssue(error: z.ZodError, what: string): DocumentError {
  const issue = error.issues[0]
  const path = issue.path.map((p) => (typeof p === 'number' ? `[${p}]` : `.${String(p)}`)).join('')
  const place = path === '' ? what : `${what} at ${path.replace(/^\./, '')}`
  return new DocumentError(`The ${place} cannot be read: ${issue.message}.`)
}
