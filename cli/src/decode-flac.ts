import { createRequire } from 'node:module'
import { AudioError, type Clip, makeClip } from '@sober-prism/core/audio'
import type { FlacLibrary } from './flac-library'

const require = createRequire(import.meta.url)

/** Bytes that the decoder is given at a time. */
const READ_BYTES = 65536

let loaded: Promise<FlacLibrary> | undefined

/** The decoder is loaded when the first FLAC file is met. */
function library(): Promise<FlacLibrary> {
  loaded ??= new Promise((resolve) => {
    // Where there is a fetch it would be asked for a file of this disk, which it does not take.
    const { fetch } = globalThis
    Object.assign(globalThis, { fetch: undefined })
    const made = require('libflacjs/dist/libflac.min.wasm.js') as FlacLibrary
    const ready = () => {
      Object.assign(globalThis, { fetch })
      resolve(made)
    }
    if (made.isReady()) ready()
    else made.on('ready', ready)
  })
  return loaded
}

/** Decodes a FLAC file of one or two channels. @throws AudioError */
export async function decodeFlac(bytes: Uint8Array): Promise<Clip> {
  const flac = await library()
  const decoder = flac.create_libflac_decoder(true)
  if (decoder === 0) throw new AudioError('The FLAC decoder could not be started.')
  const pieces: Float32Array[][] = []
  let format: { sampleRateHz: number; channels: number } | null = null
  let problem: string | null = null
  let at = 0
  const status = flac.init_decoder_stream(
    decoder,
    (wanted) => {
      const size = Math.min(wanted, READ_BYTES, bytes.length - at)
      const buffer = bytes.subarray(at, at + size)
      at += size
      return { buffer, readDataLength: size, error: false }
    },
    (channels, { sampleRate, bitsPerSample, blocksize }) => {
      format ??= { sampleRateHz: sampleRate, channels: channels.length }
      if (channels.length !== format.channels) problem ??= 'The channels become more or fewer.'
      pieces.push(channels.map((c) => samplesOf(c, blocksize, bitsPerSample)))
    },
    (_, description) => {
      problem ??= description
    },
    (about) => {
      if (about) format = { sampleRateHz: about.sampleRate, channels: about.channels }
    },
    false,
  )
  try {
    const done = status === 0 && flac.FLAC__stream_decoder_process_until_end_of_stream(decoder)
    // The checksum of the whole is compared at the end.
    const whole = flac.FLAC__stream_decoder_finish(decoder)
    const frames = pieces.reduce((sum, p) => sum + p[0].length, 0)
    if (!done || !whole || problem !== null || !format || frames === 0) {
      throw new AudioError('The FLAC file is damaged or has no audio in it.')
    }
    return joined(pieces, format, frames)
  } finally {
    flac.FLAC__stream_decoder_delete(decoder)
  }
}

function joined(
  pieces: readonly Float32Array[][],
  { sampleRateHz, channels }: { sampleRateHz: number; channels: number },
  frames: number,
): Clip {
  if (channels > 2) {
    throw new AudioError(`The file has ${channels} channels; mono and stereo are accepted.`)
  }
  const out = Array.from({ length: channels }, () => new Float32Array(frames))
  let at = 0
  for (const piece of pieces) {
    out.forEach((channel, c) => {
      channel.set(piece[c], at)
    })
    at += piece[0].length
  }
  return makeClip(sampleRateHz, out)
}

/** Words of as many whole bytes as the library takes for them, the lowest first. */
function samplesOf(bytes: Uint8Array, frames: number, bits: number): Float32Array {
  const width = bytes.length / frames
  const scale = 2 ** (1 - bits)
  const shift = 32 - bits
  const out = new Float32Array(frames)
  for (let i = 0, at = 0; i < frames; i++) {
    let word = 0
    for (let b = 0; b < width; b++, at++) word |= bytes[at] << (8 * b)
    out[i] = ((word << shift) >> shift) * scale
  }
  return out
}
