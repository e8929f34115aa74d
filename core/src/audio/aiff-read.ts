import { AudioError } from './audio-error'
import { ByteReader, type Endian } from './byte-reader'
import { type LayoutSteps, requireChannels, takeSteps } from './layout'
import { bytesPerSample, type SampleFormat } from './pcm'
import { type AudioFile, decodeWhole } from './wav-read'

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
  return decodeWhole(bytes, takeSteps(bytes, aiffLayout(bytes.length)))
}

/** Reads the header of an AIFF file. @param length of the file, in bytes. */
export function* aiffLayout(length: number): LayoutSteps {
  const start = yield { at: 0, size: 12 }
  if (!looksLikeAiff(start)) {
    throw new AudioError('This is not an AIFF file: its header is missing.')
  }
  const compressed = new ByteReader(start, 'big').tag(8) === 'AIFC'
  let format: AiffFormat | null = null
  let dataAt: number | null = null
  let dataSize = 0
  let at = 12
  while (at + 8 <= length) {
    const reader = new ByteReader(yield { at, size: 8 + COMMON_BYTES }, 'big')
    const tag = reader.tag(0)
    const size = reader.u32(4)
    if (tag === 'COMM') format = readCommon(reader, 8, size, compressed)
    if (tag === 'SSND') {
      dataAt = at + 16 + reader.u32(8)
      dataSize = size - 8 - reader.u32(8)
    }
    at += 8 + size + (size % 2)
  }
  if (!format) throw new AudioError('The AIFF header does not describe the audio.')
  if (dataAt === null || format.frames === 0 || dataSize <= 0) {
    throw new AudioError('The file has no audio in it.')
  }
  const wanted = format.frames * format.channels * bytesPerSample(format.sample)
  if (wanted > dataSize || dataAt + wanted > length) {
    throw new AudioError('The file is cut short: it holds less audio than its header says.')
  }
  return { ...format, dataAt, timeStampFrames: null }
}

/** Part of a chunk that is asked for: the description of the audio with its coding. */
const COMMON_BYTES = 22

function readCommon(reader: ByteReader, at: number, size: number, compressed: boolean): AiffFormat {
  if (size < 18) throw new AudioError('The AIFF header is too short to describe the audio.')
  const channels = reader.u16(at)
  const frames = reader.u32(at + 2)
  const bits = reader.u16(at + 6)
  const sampleRateHz = extendedFloat(reader, at + 8)
  const coding = compressed ? reader.tag(at + 18) : 'NONE'
  requireChannels(channels)
  if (!(sampleRateHz >= 2000 && sampleRateHz <= 768000 && Number.isInteger(sampleRateHz))) {
    throw new AudioError('The header gives an invalid sample rate.')
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
  const signed = reader.u16(at)
  const exponent = signed & 0x7fff
  const high = reader.u32(at + 2)
  const low = reader.u32(at + 6)
  const size = high * 2 ** (exponent - 16383 - 31) + low * 2 ** (exponent - 16383 - 63)
  return signed & 0x8000 ? -size : size
}
