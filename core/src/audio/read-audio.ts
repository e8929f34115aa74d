import { aiffLayout, looksLikeAiff, readAiff } from './aiff-read'
import { AudioError } from './audio-error'
import type { LayoutSteps } from './layout'
import { type AudioFile, looksLikeWav, readWav, wavLayout } from './wav-read'

/** File kinds told by their first bytes. `unknown` covers everything this code cannot name. */
export type AudioFileKind = 'wav' | 'aiff' | 'flac' | 'mp3' | 'ogg' | 'mp4' | 'zip' | 'unknown'

/** Names a file's kind by its first bytes, never by its name. */
export function audioFileKind(bytes: Uint8Array): AudioFileKind {
  if (looksLikeWav(bytes)) return 'wav'
  if (looksLikeAiff(bytes)) return 'aiff'
  const tag = String.fromCharCode(...bytes.subarray(0, 4))
  if (tag === 'fLaC') return 'flac'
  if (tag === 'OggS') return 'ogg'
  if (tag.startsWith('PK')) return 'zip'
  if (String.fromCharCode(...bytes.subarray(4, 8)) === 'ftyp') return 'mp4'
  if (tag.startsWith('ID3') || (bytes[0] === 0xff && (bytes[1] & 0xe6) === 0xe2)) return 'mp3'
  return 'unknown'
}

/** Reads the formats this project decodes itself. @throws AudioError for every other kind. */
export function readAudio(bytes: Uint8Array): AudioFile {
  if (bytes.length === 0) throw new AudioError('The file is empty.')
  if (looksLikeWav(bytes)) return readWav(bytes)
  if (looksLikeAiff(bytes)) return readAiff(bytes)
  throw new AudioError('This is not an audio file of a kind that can be read here.')
}

/** Reads the header of a file of a kind that this project decodes itself. @throws AudioError */
export function audioLayout(kind: 'wav' | 'aiff', length: number): LayoutSteps {
  return kind === 'wav' ? wavLayout(length) : aiffLayout(length)
}
