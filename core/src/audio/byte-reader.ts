import { AudioError } from './audio-error'

export type Endian = 'little' | 'big'

/** Bounds-checked reading of a file's bytes: reading past the end is an {@link AudioError}, never a crash. */
export class ByteReader {
  readonly #view: DataView
  readonly #little: boolean

  constructor(
    readonly bytes: Uint8Array,
    endian: Endian,
  ) {
    this.#view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
    this.#little = endian === 'little'
  }

  get length(): number {
    return this.bytes.byteLength
  }

  tag(offset: number): string {
    this.#need(offset, 4)
    let text = ''
    for (let i = 0; i < 4; i++) text += String.fromCharCode(this.bytes[offset + i])
    return text
  }

  u8(offset: number): number {
    this.#need(offset, 1)
    return this.#view.getUint8(offset)
  }

  u16(offset: number): number {
    this.#need(offset, 2)
    return this.#view.getUint16(offset, this.#little)
  }

  u32(offset: number): number {
    this.#need(offset, 4)
    return this.#view.getUint32(offset, this.#little)
  }

  /** 64-bit size as a number; sizes past 2^53 are clamped, they exceed any file that can be read. */
  u64(offset: number): number {
    this.#need(offset, 8)
    const value = this.#view.getBigUint64(offset, this.#little)
    return value > 9007199254740991n ? Number.MAX_SAFE_INTEGER : Number(value)
  }

  #need(offset: number, size: number): void {
    if (offset < 0 || offset + size > this.length) {
      throw new AudioError('The file is cut short: its header ends in the middle.')
    }
  }
}
