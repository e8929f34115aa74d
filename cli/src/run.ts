import { FileError, UsageError } from './cli-error'
import { prepareHost } from './host'
import { withOutputs } from './outputs'
import { removeUnfinished } from './whole-file'

/** Where a command works and speaks. */
export interface Surroundings {
  readonly cwd: string
  out(text: string): unknown
  error(text: string): void
  progress(text: string): void
}

export type Command = (args: readonly string[], around: Surroundings) => Promise<void>

/** Each is loaded when it is asked for, so that the others cost no time. */
const COMMANDS: Readonly<Record<string, () => Promise<Command>>> = {
  inspect: async () => (await import('./commands/inspect')).inspect,
  spectrum: async () => (await import('./commands/spectrum')).spectrum,
  response: async () => (await import('./commands/response')).response,
  apply: async () => (await import('./commands/apply')).apply,
  masking: async () => (await import('./commands/masking')).masking,
  findings: async () => (await import('./commands/findings')).findings,
  render: async () => (await import('./commands/render')).render,
  clean: async () => (await import('./commands/clean')).clean,
  curve: async () => (await import('./commands/curve')).curve,
  spectrogram: async () => (await import('./commands/spectrogram')).spectrogram,
  align: async () => (await import('./commands/align')).align,
  follow: async () => (await import('./commands/follow')).follow,
  duck: async () => (await import('./commands/duck')).duck,
  split: async () => (await import('./commands/split')).split,
  match: async () => (await import('./commands/match')).match,
  profile: async () => (await import('./commands/profile')).profile,
  balance: async () => (await import('./commands/balance')).balance,
  level: async () => (await import('./commands/level')).level,
  chain: async () => (await import('./commands/chain')).chain,
  null: async () => (await import('./commands/null')).nullOf,
  compare: async () => (await import('./commands/compare')).compare,
  look: async () => (await import('./commands/look')).look,
  export: async () => (await import('./commands/export')).exportOf,
  playback: async () => (await import('./commands/playback')).playback,
  intelligibility: async () => (await import('./commands/intelligibility')).intelligibility,
}
const USAGE = `usage: prism COMMAND …, with COMMAND one of ${Object.keys(COMMANDS).join(', ')}`

/** Runs one command; the result is the exit status: 0 done, 1 an input failed, 2 a wrong call. */
export async function runCommand(args: readonly string[], around: Surroundings): Promise<number> {
  const [name, ...rest] = args
  const load = name !== undefined && Object.hasOwn(COMMANDS, name) ? COMMANDS[name] : undefined
  if (!load) {
    around.error(`${USAGE}\n`)
    return 2
  }
  prepareHost()
  try {
    const command = await load()
    // What a call says of its files is said when they are there.
    const said: string[] = []
    await withOutputs(() => command(rest, { ...around, out: (text) => said.push(text) }))
    for (const text of said) around.out(text)
    return 0
  } catch (error) {
    if (error instanceof UsageError) {
      around.error(`prism: ${error.message}\nusage: prism ${error.usage}\n`)
      return 2
    }
    if (error instanceof FileError) {
      around.error(`prism: ${error.file}: ${error.message}\n`)
      return 1
    }
    throw error
  } finally {
    removeUnfinished()
  }
}
