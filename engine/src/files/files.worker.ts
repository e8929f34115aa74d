import { takeStepsFrom, WavWriter } from '@sober-prism/core/audio'
import { ProfileError, ProfileMeter, type ProfileTitle } from '@sober-prism/core/match'
import {
  parseSession,
  type Session,
  unpackProblem,
  writeSession,
  type ZipEntry,
  zipContents,
  zipDirectory,
} from '@sober-prism/core/session'
import { inflateSync } from 'fflate'
import { EngineError, errorSentence } from '../engine-error'
import { openSource, type RecordingAccess } from '../storage/recording-access'
import { BLOCK_FRAMES } from '../storage/recordings'
import { type LifeMessage, lifeShown, showLife } from '../work/life'
import { BlobBytes } from './blob-bytes'
import { importAudio, incomingOf } from './import-audio'
import type { FileJobName, FileJobs, FileStage, FromFileWorker, ToFileWorker } from './jobs'
import { type PushBytes, ZipBlob } from './zip-blob'

/** What one file of a zip may unpack to where it is deflated. */
const LARGEST_DEFLATED_BYTES = 1e9
/** What all files of a zip may unpack to together. */
const LARGEST_UNPACKED_BYTES = 4e9
const LARGEST_DOCUMENT_BYTES = 64e6
const READ_BYTES = 4e6
/** The page draws each report: a few a second are enough. */
const PROGRESS_MS = 200
const AUDIO_NAME = /\.(wav|wave|bwf|rf64|aif|aiff|aifc|flac|mp3|ogg|oga|opus|m4a|mp4|aac)$/i

type Runner<N extends FileJobName> = (
  input: FileJobs[N]['in'],
  onProgress: (stage: FileStage, share: number) => void,
) => Promise<FileJobs[N]['out']>

const runners: { [N in FileJobName]: Runner<N> } = {
  async unzip({ file }) {
    const zip = await openZip(file)
    const wanted = zip.entries.filter(({ name }) => {
      const last = lastOf(name)
      return AUDIO_NAME.test(last) && !last.startsWith('.') && !name.startsWith('__MACOSX/')
    })
    if (wanted.length === 0) throw new EngineError('There is no audio file in this zip.')
    const entries = []
    for (const entry of wanted) {
      entries.push({
        name: lastOf(entry.name),
        file: await zip.read(entry, LARGEST_DEFLATED_BYTES),
      })
    }
    return { entries }
  },

  async import({ source, sampleRateHz }, onProgress) {
    onProgress('decoding', 0)
    return importAudio(source, sampleRateHz, (share) => onProgress('converting', share))
  },

  async profile({ source, title }, onProgress) {
    const { sampleRateHz, channels, frames, pieces } = await incomingOf(source)
    const meter = new ProfileMeter(sampleRateHz, Math.min(2, channels))
    for await (const piece of pieces) {
      meter.add(piece.slice(0, 2))
      onProgress('reading', (meter.seconds * sampleRateHz) / frames)
    }
    return { profile: profileOf(meter, title) }
  },

  async pack({ session, recordings }, onProgress) {
    const zip = new ZipBlob('The session is too large for one file. Export it without audio.')
    zip.add('session.json', true)(new TextEncoder().encode(writeSession(session)), true)
    for (const [index, recording] of recordings.entries()) {
      onProgress('storing', index / recordings.length)
      await writeRecording(zip.add(`audio/${recording.hash}.wav`), recording, session.sampleRateHz)
    }
    return { blob: zip.finish() }
  },

  async bundle({ files }, onProgress) {
    const zip = new ZipBlob('The files are too large for one zip. Download them one by one.')
    const whole = files.reduce((sum, f) => sum + f.blob.size, 0)
    let done = 0
    for (const { name, blob } of files) {
      const push = zip.add(name)
      for (let at = 0; at < blob.size; at += READ_BYTES) {
        push(new Uint8Array(await blob.slice(at, at + READ_BYTES).arrayBuffer()))
        done += Math.min(READ_BYTES, blob.size - at)
        onProgress('storing', done / whole)
      }
      push(new Uint8Array(0), true)
    }
    return { blob: zip.finish() }
  },

  async unpack({ file }, onProgress) {
    onProgress('reading', 0)
    const zip = await openZip(file)
    const document = zip.entries.find((e) => e.name === 'session.json')
    if (!document) throw new EngineError('This is not a session file: session.json is missing.')
    const session = parseSession(await (await zip.read(document, LARGEST_DOCUMENT_BYTES)).text())
    const wanted = audioHashes(session)
    for (const [index, hash] of wanted.entries()) {
      onProgress('storing', index / wanted.length)
      const entry = zip.entries.find((e) => e.name === `audio/${hash}.wav`)
      if (!entry) continue
      const wav = await zip.read(entry, LARGEST_DEFLATED_BYTES)
      const source = { kind: 'file', format: 'wav', file: wav } as const
      const { audio, originalRateHz } = await importAudio(source, session.sampleRateHz, () => {})
      if (originalRateHz !== session.sampleRateHz || audio.hash !== hash) {
        throw new EngineError('The session file is damaged: its audio is not what it says.')
      }
    }
    return { session }
  },
}

/** A recording as a WAV entry of a zip, a block at a time. */
async function writeRecording(
  push: PushBytes,
  recording: RecordingAccess,
  sampleRateHz: number,
): Promise<void> {
  const { channels, frames } = recording
  const source = openSource(recording)
  const writer = new WavWriter(sampleRateHz, channels, frames, '32f')
  push(writer.header())
  for (let at = 0; at < frames; at += BLOCK_FRAMES) {
    const count = Math.min(BLOCK_FRAMES, frames - at)
    await source.prefetch([{ fromFrame: at, toFrame: at + count }])
    const piece = Array.from({ length: channels }, (_, c) => {
      const out = new Float32Array(count)
      source.read(c, at, out, count)
      return out
    })
    push(writer.encode(piece, count))
  }
  push(writer.end(), true)
}

function audioHashes(session: Session): string[] {
  return [...new Set([...session.tracks, ...session.references].map((t) => t.audio.hash))]
}

function lastOf(name: string): string {
  return name.split('/').at(-1) ?? name
}

/** Opens a zip by its directory; files that are stored as they are stay where they are. */
async function openZip(file: Blob) {
  const bytes = new BlobBytes(file)
  const entries = await takeStepsFrom(bytes, zipDirectory(bytes.length))
  let left = LARGEST_UNPACKED_BYTES
  return {
    entries,
    /** The contents of a file. @throws EngineError when they are more than `most` bytes. */
    async read(entry: ZipEntry, most: number): Promise<Blob> {
      const { at, size } = await takeStepsFrom(bytes, zipContents(entry))
      const packed = file.slice(at, at + size)
      if (entry.method === 0) return packed
      const problem = unpackProblem(entry, Math.min(most, left))
      if (problem !== null) throw new EngineError(problem)
      left -= entry.bytes
      try {
        // The room is what the directory says: more than that is not unpacked.
        const out = new Uint8Array(entry.bytes)
        const unpacked = inflateSync(new Uint8Array(await packed.arrayBuffer()), { out })
        return new Blob([unpacked as Uint8Array<ArrayBuffer>])
      } catch {
        throw new EngineError(UNPACKABLE)
      }
    },
  }
}

const UNPACKABLE = 'The file cannot be unpacked: it is damaged, or larger than can be read.'

self.onmessage = async ({ data }: MessageEvent<LifeMessage | ToFileWorker>) => {
  if ('kind' in data) return void showLife(data)
  await lifeShown()
  const { name, input } = data
  const send = (message: FromFileWorker) => self.postMessage(message)
  try {
    const run = runners[name] as Runner<typeof name>
    let last = 0
    let told: FileStage | null = null
    const output = await run(input as never, (stage, share) => {
      const now = performance.now()
      if (stage === told && now - last < PROGRESS_MS) return
      last = now
      told = stage
      send({ kind: 'progress', stage, share })
    })
    send({ kind: 'done', output })
  } catch (error) {
    send({ kind: 'failed', sentence: errorSentence(error) })
  }
}

function profileOf(meter: ProfileMeter, title: ProfileTitle) {
  try {
    return meter.read(title)
  } catch (error) {
    if (error instanceof ProfileError) throw new EngineError(error.message)
    throw error
  }
}
