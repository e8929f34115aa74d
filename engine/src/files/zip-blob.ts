import { Zip, ZipDeflate, ZipPassThrough } from 'fflate'
import { EngineError } from '../engine-error'

/** A zip archive without its 64-bit extension holds less than 4 GiB. */
const LARGEST_ZIP_BYTES = 0xffff_0000
const FLUSH_BYTES = 8e6

/** Takes the next bytes of an entry; the last are told to be so. @throws EngineError */
export type PushBytes = (bytes: Uint8Array, last?: boolean) => void

/** Writes a zip archive piece by piece; what is written leaves memory as blobs. */
export class ZipBlob {
  readonly #parts: Blob[] = []
  #held: Uint8Array<ArrayBuffer>[] = []
  #heldBytes = 0
  #size = 0
  #failed: Error | null = null
  readonly #zip: Zip

  /** @param tooLarge what is said when the archive would be larger than a zip can be. */
  constructor(private readonly tooLarge: string) {
    this.#zip = new Zip((error, chunk) => {
      this.#failed ??= error
      this.#held.push(chunk as Uint8Array<ArrayBuffer>)
      this.#heldBytes += chunk.length
      this.#size += chunk.length
      if (this.#heldBytes > FLUSH_BYTES) this.#flush()
    })
  }

  /** Begins a file, deflated or stored as it is. */
  add(name: string, deflate = false): PushBytes {
    const entry = deflate ? new ZipDeflate(name, { level: 6 }) : new ZipPassThrough(name)
    this.#zip.add(entry)
    return (bytes, last = false) => {
      entry.push(bytes, last)
      if (this.#failed) throw this.#failed
      if (this.#size > LARGEST_ZIP_BYTES) throw new EngineError(this.tooLarge)
    }
  }

  finish(): Blob {
    this.#zip.end()
    if (this.#failed) throw this.#failed
    this.#flush()
    return new Blob(this.#parts, { type: 'application/zip' })
  }

  #flush(): void {
    this.#parts.push(new Blob(this.#held))
    this.#held = []
    this.#heldBytes = 0
  }
}
