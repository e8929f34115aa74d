import { readFile } from 'node:fs/promises'
import { resolve } from 'node:path'
import { AudioError, type Clip, readAudio, sliceClip } from '@sober-prism/core/audio'
import { FileError } from './cli-error'
import { decodeFlac } from './decode-flac'
import { reasonOf } from './system-reason'

/** Reads a file's bytes. @throws FileError with a plain reason. */
async function readBytes(cwd: string, file: string): Promise<Uint8Array<ArrayBuffer>> {
  try {
    const buffer = await readFile(resolve(cwd, file))
    return new Uint8Array(buffer)
  } catch (error) {
    throw new FileError(file, reasonOf(error))
  }
}

/** Largest document that is read, in bytes. */
const LARGEST_TEXT = 64e6

/** Reads a document. @throws FileError */
export async function readText(cwd: string, file: string): Promise<string> {
  const bytes = await readBytes(cwd, file)
  if (bytes.length > LARGEST_TEXT) throw new FileError(file, 'is too large for a document')
  return new TextDecoder().decode(bytes)
}

/** Reads WAV, AIFF or FLAC into memory. @throws FileError */
export async function readClip(cwd: string, file: string): Promise<Clip> {
  return decodeClip(await readBytes(cwd, file), file)
}

/** Decodes WAV, AIFF or FLAC bytes. @throws FileError */
export async function decodeClip(bytes: Uint8Array<ArrayBuffer>, file: string): Promise<Clip> {
  try {
    const isFlac = bytes.length > 42 && String.fromCharCode(...bytes.subarray(0, 4)) === 'fLaC'
    return isFlac ? await decodeFlac(bytes) : readAudio(bytes)
  } catch (error) {
    if (error instanceof AudioError) throw new FileError(file, error.message)
    throw error
  }
}

/** The stretch from `from` to `to` seconds. @throws FileError when nothing of the file lies there. */
export function cutSeconds(
  clip: Clip,
  file: string,
  from = 0,
  to = Number.POSITIVE_INFINITY,
): Clip {
  const rate = clip.sampleRateHz
  const part = sliceClip(clip, from * rate, Math.min(to * rate, clip.frames))
  if (part.frames === 0) throw new FileError(file, 'no audio in the requested range')
  return part
}
