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
    throw new DocumentError(`The ${what} cannot be read: a value has the wrong type.`)
  }
  if (!parsed.success) throw describeIssue(parsed.error, what)
  return parsed.data
}

/** The first problem Zod found, as one sentence with the path of the field. */
export function describeIssue(error: z.ZodError, what: string): DocumentError {
  const issue = error.issues[0]
  const path = issue.path.map((p) => (typeof p === 'number' ? `[${p}]` : `.${String(p)}`)).join('')
  const place = path === '' ? what : `${what} at ${path.replace(/^\./, '')}`
  return new DocumentError(`The ${place} cannot be read: ${reasonOf(issue)}.`)
}

type Issue = z.ZodError['issues'][number]

const TYPES: Readonly<Record<string, string>> = {
  number: 'a number',
  int: 'a whole number',
  string: 'text',
  boolean: 'true or false',
  array: 'a list',
  object: 'an object',
}

/** How messages of the validator's own begin. */
const RAW = /^(Invalid|Too small|Too big|Unrecognized)/

/** What is wrong with a value, in words of our own. */
function reasonOf(issue: Issue): string {
  // What a schema says in words of its own.
  if (!RAW.test(issue.message)) return issue.message
  switch (issue.code) {
    case 'invalid_type': {
      if (issue.message.endsWith('received undefined')) return 'it is missing'
      const wanted = TYPES[issue.expected]
      return wanted ? `it must be ${wanted}` : 'it has the wrong type'
    }
    case 'too_small': {
      const { minimum, inclusive, origin } = issue
      if (origin === 'string') return `it must have at least ${minimum} characters`
      if (origin === 'array') return `it must have at least ${minimum} entries`
      return inclusive ? `it must be ${minimum} or more` : `it must be more than ${minimum}`
    }
    case 'too_big': {
      const { maximum, inclusive, origin } = issue
      if (origin === 'string') return `it may have ${maximum} characters at most`
      if (origin === 'array') return `it may have ${maximum} entries at most`
      return inclusive ? `it must be ${maximum} or less` : `it must be less than ${maximum}`
    }
    case 'not_multiple_of':
      return `it must be a multiple of ${issue.divisor}`
    case 'invalid_value':
      return oneOf(issue.values)
    case 'invalid_union':
      return 'options' in issue && Array.isArray(issue.options)
        ? oneOf(issue.options)
        : 'it has none of the accepted forms'
    case 'unrecognized_keys':
      return `it holds fields that are not known: ${issue.keys.join(', ')}`
    case 'invalid_format':
      if (issue.format === 'datetime') return 'it must be a date and time, as 2026-03-04T05:06:07Z'
      return 'it has the wrong form'
    default:
      return issue.message
  }
}

function oneOf(values: readonly unknown[]): string {
  return values.length === 1 ? `it must be ${values[0]}` : `it must be one of ${values.join(', ')}`
}
