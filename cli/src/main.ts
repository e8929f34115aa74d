import { runCommand } from './run'

// npm runs scripts in the project's root; files are meant relative to where the caller stands.
const home = process.env.INIT_CWD ?? process.cwd()
process.exitCode = await runCommand(process.argv.slice(2), {
  cwd: home,
  out: (text) => process.stdout.write(text),
  error: (text) => process.stderr.write(text),
  progress: process.stderr.isTTY ? (text) => process.stderr.write(`\r${text}\x1b[K`) : () => {},
})
