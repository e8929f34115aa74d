import { runCommand } from '../run'

/** Calls `prism` in a folder, for tests: its exit status, and what it said. */
export function prismIn(cwd: string) {
  return async (...args: string[]) => {
    let [out, error] = ['', '']
    const status = await runCommand(args, {
      cwd,
      out: (text) => {
        out += text
      },
      error: (text) => {
        error += text
      },
      progress: () => {},
    })
    return { status, out, error, json: () => JSON.parse(out) }
  }
}
