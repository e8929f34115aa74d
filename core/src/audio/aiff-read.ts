import { AudioError } from './audio-error'
import { ByteReader, type Endian } from './byte-reader'
import { bytesPerSample, decodePcm, type SampleFormat } from './pcm'
import type { AudioFile } from './wav-read'

/** True when the bytes begin like an AIFF or AIFF-C file. */
export function looksLikeAiff(bytes: Uint8Array): boolean {
  if (bytes.length < 12) return false
  const reader = new ByteReader(bytes, 'big')
  return reader.tag(0) === 'FORM' && ['AIFF', 'AIFC'].includes(reader.tag(8))
}

interface AiffFormat {
  readonly channels: number
  readonly frames: number
  readonly sampleRateHz: number
  readonly sample: SampleFormat
  readonly endian: Endian
}

/**
 * Reads AIFF and uncompressed AIFF-C: 8 to 32-bit integer, 32 and 64-bit float.
 * @throws AudioError with a sentence that says what is wrong.
 */
export function readAiff(bytes: Uint8Array): AudioFile {
  if (!looksLikeAiff(bytes))
    throw new AudioError('This is not an AIFF file: its header is missing.')
  const reader = new ByteReader(bytes, 'big')
  let format: AiffFormat | null = null
  let dataAt: number | null = null
  let dataSize = 0
  let at = 12
  while (at + 8 <= reader.length) {
    const tag = reader.tag(at)
    const size = reader.u32(at + 4)
    const body = at + 8
    if (tag === 'COMM') format = readCommon(reader, body, size, reader.tag(8) === 'AIFC')
    if (tag === 'SSND') {
      dataAt = body + 8 + reader.u32(body)
      dataSize = size - 8 - reader.u32(body)
    }
    at = body + size + (size % 2)
  }
  if (!format) throw new AudioError('The AIFF header does not describe the audio.')
  if (dataAt === null || format.frames === 0 || dataSize <= 0) {
    throw new AudioError('The file has no audio in it.')
  }
  const wanted = format.frames * format.channels * bytesPerSample(format.sample)
  if (wanted > dataSize || dataAt + wanted > reader.length) {
    throw new AudioError('The file is cut short: it holds less audio than its header says.')
  }
  const channels = decodePcm(
    bytes.subarray(dataAt, dataAt + wanted),
    format.sample,
    format.channels,
    format.endian,
  )
  return {
    sampleRateHz: format.sampleRateHz,
    channels,
    frames: format.frames,
    timeStampFrames: null,
  }
}

function readCommon(reader: ByteReader, at: number, size: number, compressed: boolean): AiffFormat {
  if (size < 18) throw new AudioError('The AIFF header is too short to describe the audio.')
  const channels = reader.u16(at)
  const frames = reader.u32(at + 2)
  const bits = reader.u16(at + 6)
  const sampleRateHz = extendedFloat(reader, at + 8)
  const coding = compressed ? reader.tag(at + 18) : 'NONE'
  if (channels < 1 || channels > 2) {
    throw new AudioError(`The file has ${channels} channels; mono and stereo are accepted.`)
  }
  if (!(sampleRateHz >= 2000 && sampleRateHz <= 768000)) {
    throw new AudioError('The header gives a sample rate which no audio has.')
  }
  const endian: Endian = coding === 'sowt' ? 'little' : 'big'
  return { channels, frames, sampleRateHz, sample: sampleFormat(coding, bits), endian }
}

function sampleFormat(coding: string, bits: number): SampleFormat {
  const lower = coding.toLowerCase()
  if (lower === 'fl32') return { kind: 'float', bytes: 4 }
  if (lower === 'fl64') return { kind: 'float', bytes: 8 }
  const bytes = Math.ceil(bits / 8)
  if (['none', 'twos', 'sowt'].includes(lower) && bytes >= 1 && bytes <= 4) {
    return { kind: 'integer', bytes: bytes as 1 | 2 | 3 | 4 }
  }
  throw new AudioError(`The AIFF coding "${coding}" with ${bits} bits is not accepted.`)
}

/** The 80-bit float in which AIFF stores its sample rate. */
function extendedFloat(reader: ByteReader, at: number): number {
  const exponent = reader.u16(at) & 0x7fff
  const high = reader.u32(at + 2)
  const low = reader.u32(at + 6)
  return high * 2 ** (exponent - 16383 - 31) + low * 2 ** (exponent - 16383 - 63)
}
