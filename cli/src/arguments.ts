import { parseArgs } from 'node:util'
import { UsageError } from './cli-error'

type OptionType = 'string' | 'strings' | 'boolean'

/** What a command accepts: its usage line and its options beyond `--json` and `--force`. */
export interface CommandSpec {
  readonly usage: string
  /** `strings` may be given several times. */
  readonly options: Readonly<Record<string, OptionType>>
  readonly files: { readonly min: number; readonly max: number }
}

export interface ParsedCall {
  readonly files: readonly string[]
  readonly json: boolean
  readonly force: boolean
  text(name: string): string | undefined
  flag(name: string): boolean
  /** All values of an option that may be given several times. */
  list(name: string): readonly string[]
  /** @throws UsageError when the value is not a finite number. */
  number(name: string): number | undefined
  /** @throws UsageError when the value is none of the choices. */
  choice<T extends string>(name: string, choices: readonly T[], fallback: T): T
}

/** Reads a command's arguments. @throws UsageError for unknown options and wrong numbers of files. */
export function parseCall(args: readonly string[], spec: CommandSpec): ParsedCall {
  const wrong = (message: string) => new UsageError(message, spec.usage)
  const options = Object.fromEntries(
    Object.entries<OptionType>({ json: 'boolean', force: 'boolean', ...spec.options }).map(
      ([name, type]) => [
        name,
        type === 'strings' ? ({ type: 'string', multiple: true } as const) : { type },
      ],
    ),
  )
  let parsed: {
    values: Record<string, string | string[] | boolean | undefined>
    positionals: string[]
  }
  try {
    parsed = parseArgs({
      args: [...args],
      options,
      allowPositionals: true,
      strict: true,
    }) as typeof parsed
  } catch (error) {
    throw wrong(problemOf(error))
  }
  const { values, positionals } = parsed
  if (positionals.length < spec.files.min || positionals.length > spec.files.max) {
    throw wrong(`${positionals.length} files given`)
  }
  for (const [name, value] of Object.entries(values)) {
    if ([value].flat().includes('')) throw wrong(`--${name} is empty`)
  }
  if (positionals.includes('')) throw wrong('a file name is empty')
  const text = (name: string) => values[name] as string | undefined
  return {
    files: positionals,
    json: values.json === true,
    force: values.force === true,
    text,
    flag: (name) => values[name] === true,
    list: (name) => (values[name] as string[] | undefined) ?? [],
    number(name) {
      const value = text(name)
      if (value === undefined) return undefined
      const number = Number(value)
      if (value.trim() === '' || !Number.isFinite(number))
        throw wrong(`--${name} takes a number, not "${value}"`)
      return number
    },
    choice(name, choices, fallback) {
      const value = text(name) ?? fallback
      const found = choices.find((c) => c === value)
      if (found === undefined) throw wrong(`--${name} takes ${choices.join(', ')}, not "${value}"`)
      return found
    },
  }
}

/** What is wrong with a call, in words of our own. */
function problemOf(error: unknown): string {
  const { code, message } = error as NodeJS.ErrnoException
  const option = /'(?:-\w, )?(-[^' ]*)/.exec(message)?.[1] ?? 'an option'
  if (code === 'ERR_PARSE_ARGS_UNKNOWN_OPTION') return `${option} is not an option of this command`
  if (code === 'ERR_PARSE_ARGS_INVALID_OPTION_VALUE') {
    return message.includes('does not take')
      ? `${option} takes no value`
      : `${option} needs a value`
  }
  return 'the call cannot be read'
}
