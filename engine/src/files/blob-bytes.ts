import type { ByteSource } from '@sober-prism/core/audio'
import { EngineError } from '../engine-error'

/** Bytes that are read ahead of small requests: a header is read in one go. */
const AHEAD_BYTES = 65536

/** A file or blob that is read by ranges. @throws EngineError when it cannot be opened any more. */
export class BlobBytes implements ByteSource {
  #at = 0
  #ahead = new Uint8Array(0)

  constructor(private readonly blob: Blob) {}

  get length(): number {
    return this.blob.size
  }

  async read(at: number, size: number): Promise<Uint8Array> {
    const within = at >= this.#at && at + size <= this.#at + this.#ahead.length
    if (within) return this.#ahead.subarray(at - this.#at, at - this.#at + size)
    const bytes = await this.#slice(at, Math.max(size, AHEAD_BYTES))
    if (size < AHEAD_BYTES) {
      this.#at = at
      this.#ahead = bytes
    }
    return bytes.subarray(0, size)
  }

  async #slice(at: number, size: number): Promise<Uint8Array<ArrayBuffer>> {
    try {
      return new Uint8Array(await this.blob.slice(at, at + size).arrayBuffer())
    } catch {
      throw new EngineError('The file cannot be opened; it may have been moved or be locked.')
    }
  }
}
