import type { AudioFileKind } from '@sober-prism/core/audio'
import { EngineError } from '../engine-error'
import type { ImportSource } from './jobs'

const FALLBACK_RATE_HZ = 48000
/** Sample rates by the two bits of an MPEG-1 audio frame's header; MPEG-2 has half, 2.5 a quarter. */
const MPEG_RATES_HZ = [44100, 48000, 32000] as const

/**
 * Decodes a format that the browser knows, at the rate the file itself has, so that only our own
 * converter changes rates. @throws EngineError when the browser cannot.
 */
export async function decodeInBrowser(
  bytes: Uint8Array<ArrayBuffer>,
  kind: AudioFileKind,
): Promise<ImportSource> {
  const rateHz = sniffRateHz(bytes, kind) ?? FALLBACK_RATE_HZ
  let decoded: AudioBuffer
  try {
    const context = new OfflineAudioContext(2, 1, rateHz)
    decoded = await context.decodeAudioData(bytes.slice().buffer)
  } catch {
    throw new EngineError(
      'This is not audio that this browser can read, or the file is damaged. WAV, AIFF, FLAC, MP3, Ogg and M4A are accepted.',
    )
  }
  if (decoded.numberOfChannels > 2) {
    throw new EngineError(
      `The file has ${decoded.numberOfChannels} channels; mono and stereo are accepted.`,
    )
  }
  if (decoded.length === 0) throw new EngineError('The file has no audio in it.')
  const channels = Array.from({ length: decoded.numberOfChannels }, (_, c) =>
    decoded.getChannelData(c).slice(),
  )
  return { kind: 'decoded', channels, sampleRateHz: decoded.sampleRate }
}

/** The sample rate in a file's header, where it stands at a known place; otherwise `null`. */
export function sniffRateHz(bytes: Uint8Array, kind: AudioFileKind): number | null {
  const rate = rawRateHz(bytes, kind)
  // The range in which every browser makes audio contexts.
  return rate !== null && rate >= 8000 && rate <= 96000 ? rate : null
}

function rawRateHz(bytes: Uint8Array, kind: AudioFileKind): number | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  switch (kind) {
    case 'flac':
      // STREAMINFO: 20 bits at byte 10 of the first metadata block.
      return bytes.length > 22 ? view.getUint32(18) >>> 12 : null
    case 'ogg': {
      const head = new TextDecoder('latin1').decode(bytes.subarray(0, 128))
      const vorbis = head.indexOf('\x01vorbis')
      return vorbis >= 0 && bytes.length > vorbis + 16 ? view.getUint32(vorbis + 12, true) : null
    }
    case 'mp3':
      return mpegRateHz(bytes)
    default:
      return null
  }
}

function mpegRateHz(bytes: Uint8Array): number | null {
  let at = 0
  if (bytes[0] === 0x49 && bytes.length > 10) {
    // ID3v2 sizes have seven bits per byte.
    at = 10 + ((bytes[6] << 21) | (bytes[7] << 14) | (bytes[8] << 7) | bytes[9])
  }
  for (const end = Math.min(bytes.length - 3, at + 65536); at < end; at++) {
    if (bytes[at] !== 0xff || (bytes[at + 1] & 0xe6) !== 0xe2) continue
    const version = (bytes[at + 1] >> 3) & 3
    const rate = MPEG_RATES_HZ[(bytes[at + 2] >> 2) & 3]
    if (rate === undefined || version === 1) continue
    return rate / (version === 3 ? 1 : version === 2 ? 2 : 4)
  }
  return null
}
