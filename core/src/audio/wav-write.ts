import type { Clip } from './clip'
import { Dither } from './dither'

/** Word length of a written WAV: dithered integer or 32-bit float. */
export type WavBits = 16 | 24 | '32f'

const HEADER_BYTES = 44
const DITHER_SEED = 0x50_52_49_53

/** Bytes of a WAV file: 16 or 24-bit with triangular dither, or 32-bit float as it is. */
export function writeWav(clip: Clip, bits: WavBits): Uint8Array<ArrayBuffer> {
  const writer = new WavWriter(clip.sampleRateHz, clip.channels.length, clip.frames, bits)
  const parts = [writer.header(), writer.encode(clip.channels, clip.frames), writer.end()]
  const bytes = new Uint8Array(parts.reduce((sum, p) => sum + p.length, 0))
  let at = 0
  for (const part of parts) {
    bytes.set(part, at)
    at += part.length
  }
  return bytes
}

/**
 * Writes a WAV file piece by piece; the whole length must be known ahead.
 * @throws RangeError when the sound is too long for one WAV file.
 */
export class WavWriter {
  readonly #dithers: readonly Dither[]
  readonly #width: number
  readonly #dataSize: number
  #steps = new Int32Array(0)

  constructor(
    private readonly sampleRateHz: number,
    private readonly channels: number,
    frames: number,
    private readonly bits: WavBits,
  ) {
    this.#width = bits === '32f' ? 4 : bits / 8
    this.#dataSize = frames * channels * this.#width
    // Sizes past 4 GiB do not fit the header's 32 bits; RF64 is not written.
    if (this.#dataSize > 0xffff_ff00) {
      throw new RangeError('The sound is too long for one WAV file, which holds 4 GiB.')
    }
    // Each channel has a dither of its own, so that pieces give what the whole would.
    this.#dithers = Array.from({ length: channels }, (_, c) => new Dither(DITHER_SEED + c))
  }

  header(): Uint8Array<ArrayBuffer> {
    const bytes = new Uint8Array(HEADER_BYTES)
    const view = new DataView(bytes.buffer)
    const tag = (at: number, text: string) => {
      for (let i = 0; i < 4; i++) bytes[at + i] = text.charCodeAt(i)
    }
    const step = this.channels * this.#width
    tag(0, 'RIFF')
    view.setUint32(4, HEADER_BYTES - 8 + this.#dataSize + (this.#dataSize % 2), true)
    tag(8, 'WAVE')
    tag(12, 'fmt ')
    view.setUint32(16, 16, true)
    view.setUint16(20, this.bits === '32f' ? 3 : 1, true)
    view.setUint16(22, this.channels, true)
    view.setUint32(24, this.sampleRateHz, true)
    view.setUint32(28, this.sampleRateHz * step, true)
    view.setUint16(32, step, true)
    view.setUint16(34, this.#width * 8, true)
    tag(36, 'data')
    view.setUint32(40, this.#dataSize, true)
    return bytes
  }

  /** The next piece: the first `frames` of each channel. */
  encode(channels: readonly Float32Array[], frames: number): Uint8Array<ArrayBuffer> {
    const bytes = new Uint8Array(frames * this.channels * this.#width)
    if (this.bits === '32f') writeFloats(bytes, channels, frames)
    else this.#writeIntegers(bytes, channels, frames, this.bits)
    return bytes
  }

  #writeIntegers(
    bytes: Uint8Array<ArrayBuffer>,
    channels: readonly Float32Array[],
    frames: number,
    bits: 16 | 24,
  ): void {
    const count = channels.length
    if (this.#steps.length < frames * count) this.#steps = new Int32Array(frames * count)
    const steps = this.#steps.subarray(0, frames * count)
    channels.forEach((channel, c) => {
      this.#dithers[c].quantise(channel, frames, bits, steps, c, count)
    })
    if (bits === 16) new Int16Array(bytes.buffer).set(steps)
    else pack24(bytes, steps)
  }

  /** What stands behind the last piece: files have an even length. */
  end(): Uint8Array<ArrayBuffer> {
    return new Uint8Array(this.#dataSize % 2)
  }
}

function writeFloats(
  bytes: Uint8Array<ArrayBuffer>,
  channels: readonly Float32Array[],
  frames: number,
): void {
  const view = new DataView(bytes.buffer)
  const step = 4 * channels.length
  channels.forEach((channel, c) => {
    for (let i = 0, at = 4 * c; i < frames; i++, at += step) view.setFloat32(at, channel[i], true)
  })
}

/** 24-bit words, four of them into three words of 32 bits. */
function pack24(bytes: Uint8Array<ArrayBuffer>, steps: Int32Array): void {
  const words = new Uint32Array(bytes.buffer, 0, bytes.length >> 2)
  const whole = steps.length - (steps.length % 4)
  for (let s = 0, w = 0; s < whole; s += 4, w += 3) {
    const b = steps[s + 1]
    const c = steps[s + 2]
    words[w] = (steps[s] & 0xffffff) | (b << 24)
    words[w + 1] = ((b >>> 8) & 0xffff) | (c << 16)
    words[w + 2] = ((c >>> 16) & 0xff) | (steps[s + 3] << 8)
  }
  for (let s = whole; s < steps.length; s++) {
    bytes[3 * s] = steps[s]
    bytes[3 * s + 1] = steps[s] >> 8
    bytes[3 * s + 2] = steps[s] >> 16
  }
}
