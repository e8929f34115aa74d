import type { Clip } from './clip'
import { ditherToInteger } from './dither'
import { seededRandom } from './random'

/** Word length of a written WAV: dithered integer or 32-bit float. */
export type WavBits = 16 | 24 | '32f'

const HEADER_BYTES = 44
const DITHER_SEED = 0x50_52_49_53

/** Bytes of a WAV file: 16 or 24-bit with triangular dither, or 32-bit float as it is. */
export function writeWav(clip: Clip, bits: WavBits): Uint8Array<ArrayBuffer> {
  const isFloat = bits === '32f'
  const width = isFloat ? 4 : bits / 8
  const channelCount = clip.channels.length
  const dataSize = clip.frames * channelCount * width
  // Sizes past 4 GiB do not fit the header's 32 bits; RF64 is not written.
  if (dataSize > 0xffff_ff00) throw new RangeError('The clip is too long for one WAV file.')
  const bytes = new Uint8Array(HEADER_BYTES + dataSize + (dataSize % 2))
  const view = new DataView(bytes.buffer)
  const tag = (at: number, text: string) => {
    for (let i = 0; i < 4; i++) bytes[at + i] = text.charCodeAt(i)
  }
  tag(0, 'RIFF')
  view.setUint32(4, bytes.length - 8, true)
  tag(8, 'WAVE')
  tag(12, 'fmt ')
  view.setUint32(16, 16, true)
  view.setUint16(20, isFloat ? 3 : 1, true)
  view.setUint16(22, channelCount, true)
  view.setUint32(24, clip.sampleRateHz, true)
  view.setUint32(28, clip.sampleRateHz * channelCount * width, true)
  view.setUint16(32, channelCount * width, true)
  view.setUint16(34, width * 8, true)
  tag(36, 'data')
  view.setUint32(40, dataSize, true)
  if (isFloat) writeFloats(view, clip)
  else writeIntegers(bytes, clip, bits)
  return bytes
}

function writeFloats(view: DataView, clip: Clip): void {
  const step = 4 * clip.channels.length
  clip.channels.forEach((channel, c) => {
    for (let i = 0, at = HEADER_BYTES + 4 * c; i < clip.frames; i++, at += step) {
      view.setFloat32(at, channel[i], true)
    }
  })
}

function writeIntegers(bytes: Uint8Array, clip: Clip, bits: 16 | 24): void {
  const random = seededRandom(DITHER_SEED)
  const width = bits / 8
  const step = width * clip.channels.length
  clip.channels.forEach((channel, c) => {
    for (let i = 0, at = HEADER_BYTES + width * c; i < clip.frames; i++, at += step) {
      const value = ditherToInteger(channel[i], bits, random)
      bytes[at] = value & 0xff
      bytes[at + 1] = (value >> 8) & 0xff
      if (bits === 24) bytes[at + 2] = (value >> 16) & 0xff
    }
  })
}
