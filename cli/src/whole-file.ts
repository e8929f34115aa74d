import { existsSync } from 'node:fs'
import { type FileHandle, mkdir, open, rename, rm } from 'node:fs/promises'
import { basename, dirname, join, resolve } from 'node:path'
import { FileError } from './cli-error'

/** A file that is written piece by piece under another name, and is there as a whole or not at all. */
export class WholeFile {
  private constructor(
    private readonly file: string,
    private readonly path: string,
    private readonly temporary: string,
    private readonly handle: FileHandle,
  ) {}

  /** @throws FileError when it exists and is not to be replaced, or cannot be written. */
  static async create(cwd: string, file: string, force: boolean): Promise<WholeFile> {
    const path = resolve(cwd, file)
    if (!force && existsSync(path)) throw new FileError(file, 'exists already; --force replaces it')
    const temporary = join(dirname(path), `.${basename(path)}.${process.pid}.part`)
    try {
      await mkdir(dirname(path), { recursive: true })
      return new WholeFile(file, path, temporary, await open(temporary, 'w'))
    } catch (error) {
      throw new FileError(file, (error as Error).message)
    }
  }

  /** The open file's descriptor, behind what was written. */
  get fd(): number {
    return this.handle.fd
  }

  async write(bytes: Uint8Array): Promise<void> {
    try {
      await this.handle.write(bytes)
    } catch (error) {
      throw new FileError(this.file, (error as Error).message)
    }
  }

  /** Gives it its name. @throws FileError */
  async finish(): Promise<void> {
    try {
      await this.handle.close()
      await rename(this.temporary, this.path)
    } catch (error) {
      await this.discard()
      throw new FileError(this.file, (error as Error).message)
    }
  }

  /** Leaves nothing behind. */
  async discard(): Promise<void> {
    await this.handle.close().catch(() => {})
    await rm(this.temporary, { force: true })
  }
}
