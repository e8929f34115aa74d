import { lstatSync, mkdirSync, realpathSync, rmSync, statSync } from 'node:fs'
import { type FileHandle, open, rm } from 'node:fs/promises'
import { basename, dirname, join, resolve } from 'node:path'
import { FileError } from './cli-error'
import { currentOutputs, type Output } from './outputs'
import { reasonOf } from './system-reason'

/** Files that are being written; what ends the program takes them away. */
const unfinished = new Set<string>()
let made = 0

/** Takes away what is half-written. For the moment in which the program is stopped. */
export function removeUnfinished(): void {
  for (const path of unfinished) rmSync(path, { force: true })
  unfinished.clear()
}

/**
 * A file that is written piece by piece under another name, and is there as a whole or not at all: with all others that
 * the call writes, when that has succeeded.
 */
export class WholeFile {
  private constructor(
    private readonly output: Output,
    private readonly handle: FileHandle,
  ) {}

  /**
   * @throws FileError when it exists and is not to be replaced, is no plain file, or cannot be written. Where the
   * name is a link, the file that it leads to is replaced.
   */
  static async create(cwd: string, file: string, force: boolean): Promise<WholeFile> {
    const path = targetOf(cwd, file, force)
    const temporary = join(dirname(path), `.prism-${process.pid}-${made++}.part`)
    const output = { file, path, temporary }
    currentOutputs().claim(output)
    try {
      const handle = await open(temporary, 'wx')
      unfinished.add(temporary)
      return new WholeFile(output, handle)
    } catch (error) {
      currentOutputs().release(output)
      throw new FileError(file, reasonOf(error))
    }
  }

  /** The open file's descriptor, behind what was written. */
  get fd(): number {
    return this.handle.fd
  }

  async write(bytes: Uint8Array): Promise<void> {
    try {
      for (let done = 0; done < bytes.length; ) {
        done += (await this.handle.write(bytes, done)).bytesWritten
      }
    } catch (error) {
      throw new FileError(this.output.file, reasonOf(error))
    }
  }

  /** All of it is written; it gets its name when the call has succeeded. @throws FileError */
  async finish(): Promise<void> {
    try {
      await this.handle.close()
    } catch (error) {
      await this.discard()
      throw new FileError(this.output.file, reasonOf(error))
    }
  }

  /** Leaves nothing behind. */
  async discard(): Promise<void> {
    const { temporary } = this.output
    await this.handle.close().catch(() => {})
    await rm(temporary, { force: true })
    unfinished.delete(temporary)
    currentOutputs().release(this.output)
  }
}

/** Where a file is to be written; its folder is made. @throws FileError */
function targetOf(cwd: string, file: string, force: boolean): string {
  const path = resolve(cwd, file)
  try {
    const info = statSync(path, { throwIfNoEntry: false })
    if (!info) {
      if (isLink(path)) throw new FileError(file, 'is a link that leads nowhere')
      makeFolder(dirname(path))
      // One file has one name, whichever way leads to it.
      return join(realpathSync(dirname(path)), basename(path))
    }
    if (!info.isFile()) throw new FileError(file, 'exists and is not a plain file')
    if (!force) throw new FileError(file, 'exists already; --force replaces it')
    return realpathSync(path)
  } catch (error) {
    if (error instanceof FileError) throw error
    throw new FileError(file, reasonOf(error))
  }
}

/** Makes a folder with those above it, one by one: where none can be made, that ends with an error. */
function makeFolder(path: string): void {
  if (statSync(path, { throwIfNoEntry: false })?.isDirectory()) return
  if (dirname(path) !== path) makeFolder(dirname(path))
  try {
    mkdirSync(path)
  } catch (error) {
    // Some systems say of a folder that cannot be made that it is not there.
    const isAbsent = (error as NodeJS.ErrnoException).code === 'ENOENT'
    throw isAbsent ? Object.assign(new Error(), { code: 'EACCES' }) : error
  }
}

function isLink(path: string): boolean {
  return lstatSync(path, { throwIfNoEntry: false })?.isSymbolicLink() ?? false
}

/** Writes a document, whole or not at all. @throws FileError */
export async function writeText(
  cwd: string,
  file: string,
  text: string,
  force: boolean,
): Promise<void> {
  const out = await WholeFile.create(cwd, file, force)
  try {
    await out.write(new TextEncoder().encode(text.endsWith('\n') ? text : `${text}\n`))
  } catch (error) {
    await out.discard()
    throw error
  }
  await out.finish()
}
