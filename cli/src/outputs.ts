import { AsyncLocalStorage } from 'node:async_hooks'
import { existsSync, linkSync, renameSync, rmSync } from 'node:fs'
import { FileError } from './cli-error'
import { reasonOf } from './system-reason'

/** A finished file that waits under another name for its own. */
export interface Output {
  readonly file: string
  readonly path: string
  readonly temporary: string
}

/** The files that one call writes: all of them get their names when it has succeeded, or none is there. */
export class Outputs {
  readonly #files: Output[] = []

  /** @throws FileError where the call writes the same file twice. */
  claim(output: Output): void {
    const other = this.#files.find((f) => f.path === output.path)
    if (other) throw new FileError(output.file, 'is written twice by this call')
    this.#files.push(output)
  }

  release(output: Output): void {
    const at = this.#files.indexOf(output)
    if (at >= 0) this.#files.splice(at, 1)
  }

  /** Gives all files their names. @throws FileError, with everything as it was. */
  commit(): void {
    const done: { readonly path: string; readonly before: string | null }[] = []
    for (const { file, path, temporary } of this.#files) {
      try {
        const before = existsSync(path) ? `${temporary}.before` : null
        if (before) linkSync(path, before)
        renameSync(temporary, path)
        done.push({ path, before })
      } catch (error) {
        for (const { path: made, before } of done.reverse()) {
          if (before) renameSync(before, made)
          else rmSync(made, { force: true })
        }
        throw new FileError(file, reasonOf(error))
      }
    }
    for (const { before } of done) if (before) rmSync(before, { force: true })
    this.#files.length = 0
  }
}

const calls = new AsyncLocalStorage<Outputs>()

/** Runs a call; what it writes is there when it has succeeded, all or nothing. */
export async function withOutputs(run: () => Promise<void>): Promise<void> {
  const outputs = new Outputs()
  await calls.run(outputs, run)
  outputs.commit()
}

/** The outputs of the call that is under way. */
export function currentOutputs(): Outputs {
  const outputs = calls.getStore()
  if (!outputs) throw new Error('no call is under way')
  return outputs
}
