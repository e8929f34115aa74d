import { AudioError } from './audio-error'
import { ByteReader } from './byte-reader'
import type { Clip } from './clip'
import { type AudioLayout, type LayoutSteps, requireChannels, takeSteps } from './layout'
import { bytesPerSample, decodePcm, type SampleFormat } from './pcm'

/** A clip together with what the file says of its place on a time line. */
export interface AudioFile extends Clip {
  /** Frames since midnight from a broadcast WAV's time stamp, at the file's own rate; `null` without one. */
  readonly timeStampFrames: number | null
}

const FORMAT_PCM = 1
const FORMAT_FLOAT = 3
const FORMAT_EXTENSIBLE = 0xfffe
const MIN_RATE_HZ = 2000
const MAX_RATE_HZ = 768000

/** True when the bytes begin like a WAV, RF64 or BW64 file. */
export function looksLikeWav(bytes: Uint8Array): boolean {
  if (bytes.length < 12) return false
  const reader = new ByteReader(bytes, 'little')
  return ['RIFF', 'RF64', 'BW64'].includes(reader.tag(0)) && reader.tag(8) === 'WAVE'
}

/**
 * Reads a WAV file: 8, 16, 24, 32-bit integer, 32 and 64-bit float, extensible, RF64, broadcast.
 * Strict: a file whose audio is shorter than its header says is refused, never filled up.
 * @throws AudioError with a sentence that says what is wrong.
 */
export function readWav(bytes: Uint8Array): AudioFile {
  return decodeWhole(bytes, takeSteps(bytes, wavLayout(bytes.length)))
}

/** All of a file's samples. @throws AudioError when one of them is not a number. */
export function decodeWhole(bytes: Uint8Array, layout: AudioLayout): AudioFile {
  const { sampleRateHz, frames, timeStampFrames, sample, endian, dataAt } = layout
  const size = frames * layout.channels * bytesPerSample(sample)
  const data = bytes.subarray(dataAt, dataAt + size)
  const channels = decodePcm(data, sample, layout.channels, endian)
  return { sampleRateHz, channels, frames, timeStampFrames }
}

/** Part of a chunk that is asked for: the longest header, that of a broadcast WAV up to its time stamp. */
const CHUNK_BYTES = 346

/** Reads the header of a WAV file. @param length of the file, in bytes. */
export function* wavLayout(length: number): LayoutSteps {
  const start = yield { at: 0, size: 12 }
  if (!looksLikeWav(start)) throw new AudioError('This is not a WAV file: its header is missing.')
  const wide = new ByteReader(start, 'little').tag(0) !== 'RIFF'
  let wideDataSize: number | null = null
  let format: WavFormat | null = null
  let timeStampFrames: number | null = null
  let at = 12
  while (at + 8 <= length) {
    const reader = new ByteReader(yield { at, size: 8 + CHUNK_BYTES }, 'little')
    const tag = reader.tag(0)
    const size32 = reader.u32(4)
    if (tag === 'ds64' && wide) wideDataSize = reader.u64(16)
    if (tag === 'fmt ') format = readFormat(reader, 8, size32)
    if (tag === 'bext' && size32 >= 346) timeStampFrames = reader.u64(8 + 338)
    if (tag === 'data') {
      const size = wide && size32 === 0xffffffff && wideDataSize !== null ? wideDataSize : size32
      return dataLayout(length, at + 8, size, format, timeStampFrames)
    }
    at += 8 + size32 + (size32 % 2)
  }
  throw new AudioError('The file has no audio in it: its data part is missing.')
}

interface WavFormat {
  readonly channels: number
  readonly sampleRateHz: number
  readonly sample: SampleFormat
}

function readFormat(reader: ByteReader, at: number, size: number): WavFormat {
  if (size < 16) throw new AudioError('The WAV header is too short to describe the audio.')
  let code = reader.u16(at)
  const channels = reader.u16(at + 2)
  const sampleRateHz = reader.u32(at + 4)
  const blockAlign = reader.u16(at + 12)
  const bits = reader.u16(at + 14)
  if (code === FORMAT_EXTENSIBLE) {
    if (size < 40) throw new AudioError('The extensible WAV header is too short.')
    code = reader.u16(at + 24)
  }
  requireChannels(channels)
  if (sampleRateHz < MIN_RATE_HZ || sampleRateHz > MAX_RATE_HZ) {
    throw new AudioError(`The header gives an invalid sample rate, ${sampleRateHz} Hz.`)
  }
  const sample = sampleFormat(code, bits)
  if (blockAlign !== channels * bytesPerSample(sample)) {
    throw new AudioError('The WAV header contradicts itself about the size of a frame.')
  }
  return { channels, sampleRateHz, sample }
}

function sampleFormat(code: number, bits: number): SampleFormat {
  if (code === FORMAT_PCM) {
    if (bits === 8) return { kind: 'unsigned-8' }
    if (bits === 16 || bits === 24 || bits === 32) {
      return { kind: 'integer', bytes: (bits / 8) as 2 | 3 | 4 }
    }
  }
  if (code === FORMAT_FLOAT && (bits === 32 || bits === 64)) {
    return { kind: 'float', bytes: (bits / 8) as 4 | 8 }
  }
  throw new AudioError(
    `The WAV coding (format ${code}, ${bits} bits) is not accepted; use 8, 16, 24 or 32-bit PCM or float.`,
  )
}

function dataLayout(
  length: number,
  at: number,
  size: number,
  format: WavFormat | null,
  timeStampFrames: number | null,
): AudioLayout {
  if (!format) throw new AudioError('The WAV header does not describe the audio before it begins.')
  if (at + size > length) {
    const has = Math.floor(((length - at) / size) * 100)
    throw new AudioError(`The file is cut short: ${has} % of its audio is there.`)
  }
  const frames = Math.floor(size / (format.channels * bytesPerSample(format.sample)))
  if (frames === 0) throw new AudioError('The file has no audio in it: its length is zero.')
  return { ...format, frames, endian: 'little', dataAt: at, timeStampFrames }
}
