/** FLAC bytes with verbatim frames, for tests: 16-bit mono at 44.1 kHz, as RFC 9639 describes. */
export function verbatimFlac(samples: Int16Array, block = 4096): Uint8Array {
  const bytes: number[] = [...'fLaC'].map((c) => c.charCodeAt(0))
  const info = new Bits()
  info.put(block, 16).put(block, 16).put(0, 24).put(0, 24)
  info.put(44100, 20).put(0, 3).put(15, 5).put(0, 4).put(samples.length, 32)
  for (let i = 0; i < 16; i++) info.put(0, 8)
  bytes.push(0x80, 0, 0, info.bytes.length, ...info.bytes)
  for (let start = 0, index = 0; start < samples.length; start += block, index++) {
    const part = samples.subarray(start, start + block)
    const frame = new Bits()
    frame.put(0xfff8, 16).put(0b0111, 4).put(0b1001, 4).put(0, 4).put(0b100, 3).put(0, 1)
    frame.put(index, 8).put(part.length - 1, 16)
    frame.put(crc(frame.bytes, 8, 0x07), 8)
    frame.put(0b00000010, 8)
    for (const sample of part) frame.put(sample & 0xffff, 16)
    const check = crc(frame.bytes, 16, 0x8005)
    bytes.push(...frame.bytes, check >> 8, check & 0xff)
  }
  return Uint8Array.from(bytes)
}

class Bits {
  readonly bytes: number[] = []
  #free = 0

  put(value: number, count: number): this {
    for (let i = count - 1; i >= 0; i--) {
      if (this.#free === 0) {
        this.bytes.push(0)
        this.#free = 8
      }
      const bit = Math.floor(value / 2 ** i) % 2
      this.#free--
      this.bytes[this.bytes.length - 1] |= bit << this.#free
    }
    return this
  }
}

function crc(bytes: readonly number[], width: 8 | 16, polynomial: number): number {
  const top = 1 << (width - 1)
  const mask = 2 ** width - 1
  let value = 0
  for (const byte of bytes) {
    value ^= byte << (width - 8)
    for (let i = 0; i < 8; i++) {
      value = (value & top ? (value << 1) ^ polynomial : value << 1) & mask
    }
  }
  return value
}
