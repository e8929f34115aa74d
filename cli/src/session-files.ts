import { type AudioSource, MemorySource, resample, takeStepsFrom } from '@sober-prism/core/audio'
import {
  DocumentError,
  parseSession,
  type Session,
  zipContents,
  zipDirectory,
} from '@sober-prism/core/session'
import { inflateSync } from 'fflate'
import { type AudioFile, type Bytes, FileBytes, fromClip, openBytes, piecesOf } from './audio-file'
import { FileError } from './cli-error'
import { decodeClip } from './files'

/** What a document may unpack to. */
const LARGEST_DOCUMENT = 64e6

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
    if (document.entry.bytes > LARGEST_DOCUMENT)
      throw new DocumentError('The session is too large to be read.')
    const packed = await bytes.read(document.at, document.size)
    return {
      session: parseSession(new TextDecoder().decode(unpacked(packed, document.entry))),
      async audioFile(hash, name) {
        const audio = await part(`audio/${hash}.wav`)
        if (!audio) return null
        if (audio.entry.method === 0)
          return openBytes(new PartBytes(bytes, audio.at, audio.size), `${file}: ${name}`)
        const whole = unpacked(await bytes.read(audio.at, audio.size), audio.entry)
        return fromClip(await decodeClip(whole, `${file}: ${name}`))
      },
      close: () => bytes.close(),
    }
  } catch (error) {
    await bytes.close()
    throw error
  }
}

/** What a part holds. The room is what the directory says: more than that is not unpacked. */
function unpacked(
  packed: Uint8Array,
  { method, bytes }: { method: number; bytes: number },
): Uint8Array<ArrayBuffer> {
  try {
    return method === 0
      ? new Uint8Array(packed)
      : (inflateSync(packed, { out: new Uint8Array(bytes) }) as Uint8Array<ArrayBuffer>)
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

/** Opens a `.prism` file. @throws FileError */
export async function openSession(cwd: string, file: string): Promise<SessionFile> {
  try {
    return await openSessionFile(cwd, file)
  } catch (error) {
    if (error instanceof DocumentError) throw new FileError(file, error.message)
    throw error
  }
}

/** The recordings of tracks or others, read by windows; what has another rate is converted in memory. @throws FileError */
export async function openRecordings(
  { session, audioFile }: SessionFile,
  file: string,
  wanted: readonly {
    readonly name: string
    readonly audio: { readonly hash: string }
  }[] = session.tracks,
): Promise<Map<string, AudioSource>> {
  const recordings = new Map<string, AudioSource>()
  for (const { audio, name } of wanted) {
    if (recordings.has(audio.hash)) continue
    const opened = await audioFile(audio.hash, name)
    if (!opened) throw new FileError(file, `the audio of ${name} is not in the session file`)
    recordings.set(audio.hash, await atRate(opened, session.sampleRateHz))
  }
  return recordings
}

async function atRate(file: AudioFile, sampleRateHz: number): Promise<AudioSource> {
  if (file.sampleRateHz === sampleRateHz) return file.source
  const channels = Array.from({ length: file.channels }, () => new Float32Array(file.frames))
  let at = 0
  for await (const piece of piecesOf(file, 0, file.frames)) {
    channels.forEach((channel, c) => {
      channel.set(piece[c], at)
    })
    at += piece[0].length
  }
  const clip = { sampleRateHz: file.sampleRateHz, channels, frames: file.frames }
  return new MemorySource(resample(clip, sampleRateHz).channels)
}
