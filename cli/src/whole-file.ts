import { existsSync, lstatSync, realpathSync, rmSync, statSync } from 'node:fs'
import { type FileHandle, mkdir, open, rename, rm } from 'node:fs/promises'
import { dirname, join, resolve } from 'node:path'
import { FileError } from './cli-error'

/** Files that are being written; what ends the program takes them away. */
const unfinished = new Set<string>()
let made = 0

/** Takes away what is half-written. For the moment in which the program is stopped. */
export function removeUnfinished(): void {
  for (const path of unfinished) rmSync(path, { force: true })
  unfinished.clear()
}

/** A file that is written piece by piece under another name, and is there as a whole or not at all. */
export class WholeFile {
  private constructor(
    private readonly file: string,
    private readonly path: string,
    private readonly temporary: string,
    private readonly handle: FileHandle,
  ) {}

  /**
   * @throws FileError when it exists and is not to be replaced, is no plain file, or cannot be written. Where the
   * name is a link, the file that it leads to is replaced.
   */
  static async create(cwd: string, file: string, force: boolean): Promise<WholeFile> {
    const path = targetOf(cwd, file, force)
    const temporary = join(dirname(path), `.prism-${process.pid}-${made++}.part`)
    try {
      await mkdir(dirname(path), { recursive: true })
      const handle = await open(temporary, 'wx')
      unfinished.add(temporary)
      return new WholeFile(file, path, temporary, handle)
    } catch (error) {
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
      throw new FileError(this.file, reasonOf(error))
    }
  }

  /** Gives it its name. @throws FileError */
  async finish(): Promise<void> {
    try {
      await this.handle.close()
      await rename(this.temporary, this.path)
      unfinished.delete(this.temporary)
    } catch (error) {
      await this.discard()
      throw new FileError(this.file, reasonOf(error))
    }
  }

  /** Leaves nothing behind. */
  async discard(): Promise<void> {
    await this.handle.close().catch(() => {})
    await rm(this.temporary, { force: true })
    unfinished.delete(this.temporary)
  }
}

/** Where a file is to be written. @throws FileError */
function targetOf(cwd: string, file: string, force: boolean): string {
  const path = resolve(cwd, file)
  try {
    if (!existsSync(path)) {
      if (isLink(path)) throw new FileError(file, 'is a link that leads nowhere')
      return path
    }
    if (!statSync(path).isFile()) throw new FileError(file, 'is there and is not a plain file')
    if (!force) throw new FileError(file, 'exists already; --force replaces it')
    return realpathSync(path)
  } catch (error) {
    if (error instanceof FileError) throw error
    throw new FileError(file, reasonOf(error))
  }
}

function isLink(path: string): boolean {
  return lstatSync(path, { throwIfNoEntry: false })?.isSymbolicLink() ?? false
}

const REASONS: Readonly<Record<string, string>> = {
  ENOTDIR: 'a part of its path is a file, not a folder',
  EEXIST: 'a part of its path is a file, not a folder',
  ENAMETOOLONG: 'its name is too long',
  ENOSPC: 'there is no space left on the disk',
  EACCES: 'this may not be written here',
  EPERM: 'this may not be written here',
  EROFS: 'this may not be written here',
}

/** What a system error means, without its code and path. */
export function reasonOf(error: unknown): string {
  const { code, message } = error as NodeJS.ErrnoException
  return (code !== undefined && REASONS[code]) || message
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
