import { existsSync } from 'node:fs'
import { mkdir, readFile, rename, rm, writeFile } from 'node:fs/promises'
import { basename, dirname, join, resolve } from 'node:path'
import { AudioError, type Clip, makeClip, readAudio, sliceClip } from '@sober-prism/core/audio'
import { FLACDecoder } from '@wasm-audio-decoders/flac'
import { FileError } from './cli-error'

/** Reads a file's bytes. @throws FileError with a plain reason. */
export async function readBytes(cwd: string, file: string): Promise<Uint8Array<ArrayBuffer>> {
  try {
    const buffer = await readFile(resolve(cwd, file))
    return new Uint8Array(buffer)
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code
    const reason =
      code === 'ENOENT'
        ? 'no such file'
        : code === 'EISDIR'
          ? 'is a folder'
          : (error as Error).message
    throw new FileError(file, reason)
  }
}

/** Reads WAV, AIFF or FLAC. @throws FileError */
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

async function decodeFlac(bytes: Uint8Array): Promise<Clip> {
  const decoder = new FLACDecoder()
  try {
    await decoder.ready
    const { channelData, samplesDecoded, sampleRate, errors } = await decoder.decodeFile(bytes)
    if (errors.length > 0 || samplesDecoded === 0) {
      throw new AudioError('The FLAC file is damaged or has no audio in it.')
    }
    if (channelData.length > 2) {
      throw new AudioError(
        `The file has ${channelData.length} channels; mono and stereo are accepted.`,
      )
    }
    return makeClip(
      sampleRate,
      channelData.map((c) => c.slice(0, samplesDecoded)),
    )
  } finally {
    decoder.free()
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
  if (part.frames === 0)
    throw new FileError(file, 'nothing of it lies in the stretch that was asked for')
  return part
}

/** Writes whole or not at all; an existing file is kept unless forced. @throws FileError */
export async function writeWhole(
  cwd: string,
  file: string,
  bytes: Uint8Array,
  force: boolean,
): Promise<void> {
  const path = resolve(cwd, file)
  if (!force && existsSync(path)) throw new FileError(file, 'exists already; --force replaces it')
  const temporary = join(dirname(path), `.${basename(path)}.${process.pid}.part`)
  try {
    await mkdir(dirname(path), { recursive: true })
    await writeFile(temporary, bytes)
    await rename(temporary, path)
  } catch (error) {
    await rm(temporary, { force: true })
    throw new FileError(file, (error as Error).message)
  }
}
