import { createHash } from 'node:crypto'
import { existsSync } from 'node:fs'
import { resolve } from 'node:path'
import { type AudioSource, type ByteSource, takeStepsFrom } from '@sober-prism/core/audio'
import {
  AS_IT_CAME,
  type AudioRef,
  DocumentError,
  parseSession,
  type Session,
  sessionInVariation,
  unpackProblem,
  type ZipEntry,
  zipContents,
  zipDirectory,
} from '@sober-prism/core/session'
import { inflateSync } from 'fflate'
import { type AudioFile, type Bytes, FileBytes, fromClip, openBytes, piecesOf } from './audio-file'
import { FileError } from './cli-error'
import { decodeClip } from './files'

/** What a document, and audio that is deflated, may unpack to. Audio in sessions of ours is stored as it is. */
const LARGEST_DOCUMENT = 64e6
const LARGEST_PACKED_AUDIO = 128e6

/** An opened `.prism` file: its document, and its audio by content hash. To be closed. */
export interface SessionFile {
  readonly session: Session
  /** Opens a recording; null when the file does not hold it. @throws FileError */
  audioFile(hash: string, name: string): Promise<AudioFile | null>
  close(): Promise<void>
}

/** Opens a `.prism` file (docs/formats.md); its audio stays on disk. @throws FileError, DocumentError */
async function openSessionFile(cwd: string, file: string): Promise<SessionFile> {
  const bytes = await FileBytes.open(cwd, file)
  try {
    const entries = await takeStepsFrom(bytes, zipDirectory(bytes.length))
    const part = async (name: string) => {
      const entry = entries.find((e) => e.name === name)
      if (!entry) return null
      const { at, size } = await takeStepsFrom(bytes, zipContents(entry))
      return { entry, at, size }
    }
    const document = await part('session.json')
    if (!document) throw new DocumentError('The file is not a session: session.json is missing.')
    const text = await unpacked(bytes, document, LARGEST_DOCUMENT)
    return {
      session: parseSession(new TextDecoder().decode(text)),
      async audioFile(hash, name) {
        const audio = await part(`audio/${hash}.wav`)
        if (!audio) return null
        if (audio.entry.method === 0)
          return openBytes(new PartBytes(bytes, audio.at, audio.size), `${file}: ${name}`)
        const whole = await unpacked(bytes, audio, LARGEST_PACKED_AUDIO)
        return fromClip(await decodeClip(whole, `${file}: ${name}`))
      },
      close: () => bytes.close(),
    }
  } catch (error) {
    await bytes.close()
    throw error
  }
}

interface Part {
  readonly entry: ZipEntry
  readonly at: number
  readonly size: number
}

/** What a part holds, at most so many bytes. @throws DocumentError */
async function unpacked(
  file: ByteSource,
  { entry, at, size }: Part,
  most: number,
): Promise<Uint8Array<ArrayBuffer>> {
  const problem = unpackProblem(entry, most)
  if (problem !== null) throw new DocumentError(problem)
  const packed = await file.read(at, size)
  try {
    // The room is what the directory says: more than that is not unpacked.
    return entry.method === 0
      ? new Uint8Array(packed)
      : (inflateSync(packed, { out: new Uint8Array(entry.bytes) }) as Uint8Array<ArrayBuffer>)
  } catch {
    throw new DocumentError('The file cannot be unpacked: it is damaged or not a zip.')
  }
}

/** A part of a file's bytes. The file itself stays open. */
class PartBytes implements Bytes {
  constructor(
    private readonly whole: Bytes,
    private readonly at: number,
    readonly length: number,
  ) {}

  read(at: number, size: number): Promise<Uint8Array> {
    return this.whole.read(this.at + at, Math.max(0, Math.min(size, this.length - at)))
  }

  async close(): Promise<void> {}
}

/** A session with the variation in which it is meant: `FILE#2`; `FILE#0` is the session as it came. */
const IN_VARIATION = /^(.+)#(\d)$/

/**
 * Opens a `.prism` file as it stands, or in one of its variations by its number.
 * @throws FileError
 */
export async function openSession(cwd: string, file: string): Promise<SessionFile> {
  try {
    const [, path, number] = IN_VARIATION.exec(file) ?? []
    if (path === undefined || existsSync(resolve(cwd, file)))
      return await openSessionFile(cwd, file)
    const opened = await openSessionFile(cwd, path)
    const { list } = opened.session.variations
    const id = number === '0' ? AS_IT_CAME : list.find((v) => v.number === Number(number))?.id
    if (id !== undefined) return { ...opened, session: sessionInVariation(opened.session, id) }
    await opened.close()
    const known = list.map((v) => v.number).join(', ') || 'none'
    throw new DocumentError(`The session has no variation ${number} (it has ${known}).`)
  } catch (error) {
    if (error instanceof DocumentError) throw new FileError(file, error.message)
    throw error
  }
}

/** The recordings of tracks or others, read by windows, each found to be what its name says. @throws FileError */
export async function openRecordings(
  { session, audioFile }: SessionFile,
  file: string,
  wanted: readonly {
    readonly name: string
    readonly audio: AudioRef
  }[] = session.tracks,
): Promise<Map<string, AudioSource>> {
  const recordings = new Map<string, AudioSource>()
  for (const { audio, name } of wanted) {
    if (recordings.has(audio.hash)) continue
    const opened = await audioFile(audio.hash, name)
    if (!opened) throw new FileError(file, `the audio of ${name} is not in the session file`)
    const problem = await mismatch(opened, audio, session.sampleRateHz)
    if (problem !== null) {
      throw new FileError(file, `the audio of ${name} is not what the session says: ${problem}`)
    }
    recordings.set(audio.hash, opened.source)
  }
  return recordings
}

/** How audio in a session file differs from what its document says of it; null when it does not. */
async function mismatch(
  opened: AudioFile,
  audio: AudioRef,
  sampleRateHz: number,
): Promise<string | null> {
  if (opened.sampleRateHz !== sampleRateHz) return `its rate is ${opened.sampleRateHz} Hz`
  if (opened.channels !== audio.channels) return `it has ${opened.channels} channels`
  if (opened.frames !== audio.frames) return `it has ${opened.frames} frames`
  const hash = await contentHash(opened)
  return hash === audio.hash ? null : 'its samples differ'
}

/** SHA-256 over the digests of the channels' samples as 32-bit floats (docs/formats.md). */
async function contentHash(file: AudioFile): Promise<string> {
  const hashers = Array.from({ length: file.channels }, () => createHash('sha256'))
  for await (const piece of piecesOf(file, 0, file.frames)) {
    for (const [c, { buffer, byteOffset, byteLength }] of piece.entries()) {
      hashers[c].update(new Uint8Array(buffer, byteOffset, byteLength))
    }
  }
  const whole = createHash('sha256')
  for (const hasher of hashers) whole.update(hasher.digest())
  return whole.digest('hex')
}
