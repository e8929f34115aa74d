import { isatty } from 'node:tty'
import { runCommand } from './run'
import { reasonOf } from './system-reason'
import { removeUnfinished } from './whole-file'

/** Exit status of a program that was stopped by a signal: 128 and its number (POSIX). */
const STOPPED = { SIGINT: 130, SIGTERM: 143, SIGHUP: 129 } as const

for (const [signal, status] of Object.entries(STOPPED)) {
  process.on(signal, () => {
    removeUnfinished()
    process.exit(status)
  })
}

// Who reads the output may stop reading; a disk it goes to may be full.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  removeUnfinished()
  if (error.code !== 'EPIPE') tell(`prism: the output cannot be written: ${reasonOf(error)}\n`)
  process.exit(1)
})
process.stderr.on('error', () => {})

/** What nobody foresaw is told in one line. */
function failed(error: unknown): never {
  removeUnfinished()
  const message = error instanceof Error ? error.message : String(error)
  tell(`prism: internal error: ${message}\n`)
  if (process.env.PRISM_DEBUG && error instanceof Error) tell(`${error.stack}\n`)
  process.exit(1)
}
process.on('uncaughtException', failed)
process.on('unhandledRejection', failed)

function tell(text: string): void {
  process.stderr.write(text)
}

// npm runs scripts in the project's root; files are meant relative to where the caller stands.
const home = process.env.INIT_CWD ?? process.cwd()
process.exitCode = await runCommand(process.argv.slice(2), {
  cwd: home,
  out: (text) => process.stdout.write(text),
  error: tell,
  progress: isatty(2) ? (text) => process.stderr.write(`\r${text}\x1b[K`) : () => {},
})
