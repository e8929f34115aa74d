import { makeClip, readAudio, readWav, resample, writeWav } from '@sober-prism/core/audio'
import type { TrackAudio } from '@sober-prism/core/chain'
import { parseSession, type Session, writeSession } from '@sober-prism/core/session'
import { unzipSync, Zip, ZipDeflate, ZipPassThrough } from 'fflate'
import { EngineError, errorSentence } from '../engine-error'
import { hashSamples, storeSamples, toShared } from '../storage/samples'
import type { FileJobName, FileJobs, FileStage, FromFileWorker, ToFileWorker } from './jobs'

/** A zip archive without its 64-bit extension holds less than 4 GiB. */
const LARGEST_ZIP_BYTES = 0xffff_0000
const AUDIO_NAME = /\.(wav|wave|bwf|rf64|aif|aiff|aifc|flac|mp3|ogg|oga|opus|m4a|mp4|aac)$/i

type Runner<N extends FileJobName> = (
  input: FileJobs[N]['in'],
  onProgress: (stage: FileStage, share: number) => void,
) => Promise<FileJobs[N]['out']>

const runners: { [N in FileJobName]: Runner<N> } = {
  async unzip({ bytes }) {
    const files = unpackZip(bytes, (name) => {
      const last = name.split('/').at(-1) ?? ''
      return AUDIO_NAME.test(last) && !last.startsWith('.') && !name.startsWith('__MACOSX/')
    })
    const entries = Object.entries(files).map(([name, data]) => ({
      name: name.split('/').at(-1) ?? name,
      bytes: data,
    }))
    if (entries.length === 0) throw new EngineError('There is no audio file in this zip.')
    return { entries }
  },

  async import({ source, sampleRateHz }, onProgress) {
    onProgress('decoding', 0)
    const clip =
      source.kind === 'bytes'
        ? readAudio(source.bytes)
        : { ...makeClip(source.sampleRateHz, source.channels), timeStampFrames: null }
    onProgress('converting', 0)
    const { channels, frames } = resample(clip, sampleRateHz, (share) =>
      onProgress('converting', share),
    )
    onProgress('storing', 0)
    const hash = await hashSamples(channels)
    await storeSamples(hash, channels)
    const stamp = clip.timeStampFrames
    return {
      audio: { hash, channels: channels.length, frames },
      channels: toShared(channels),
      originalRateHz: clip.sampleRateHz,
      timeStampSeconds: stamp === null ? null : stamp / clip.sampleRateHz,
    }
  },

  async pack({ session, audio }, onProgress) {
    const parts: Uint8Array<ArrayBuffer>[] = []
    let size = 0
    let failed: Error | null = null
    const zip = new Zip((error, chunk) => {
      if (error) failed = error
      parts.push(chunk as Uint8Array<ArrayBuffer>)
      size += chunk.length
    })
    const document = new ZipDeflate('session.json', { level: 6 })
    zip.add(document)
    document.push(new TextEncoder().encode(writeSession(session)), true)
    let done = 0
    for (const [hash, channels] of audio) {
      onProgress('storing', done++ / audio.size)
      const entry = new ZipPassThrough(`audio/${hash}.wav`)
      zip.add(entry)
      entry.push(writeWav(makeClip(session.sampleRateHz, channels), '32f'), true)
      if (size > LARGEST_ZIP_BYTES) {
        throw new EngineError('The session is too large for one file; save it without its audio.')
      }
    }
    zip.end()
    if (failed) throw failed
    return { blob: new Blob(parts, { type: 'application/zip' }) }
  },

  async unpack({ bytes }, onProgress) {
    onProgress('reading', 0)
    const files = unpackZip(bytes, (name) => name === 'session.json' || name.startsWith('audio/'))
    const document = files['session.json']
    if (!document) throw new EngineError('This is not a session file: session.json is missing.')
    const session = parseSession(new TextDecoder().decode(document))
    const audio = new Map<string, TrackAudio>()
    const wanted = audioHashes(session)
    for (const [index, hash] of wanted.entries()) {
      onProgress('storing', index / wanted.length)
      const file = files[`audio/${hash}.wav`]
      if (!file) continue
      const { channels, sampleRateHz } = readWav(file)
      if (sampleRateHz !== session.sampleRateHz || (await hashSamples(channels)) !== hash) {
        throw new EngineError('The session file is damaged: its audio is not what it says.')
      }
      await storeSamples(hash, channels)
      audio.set(hash, toShared(channels))
    }
    return { session, audio }
  },
}

function audioHashes(session: Session): string[] {
  return [...new Set([...session.tracks, ...session.references].map((t) => t.audio.hash))]
}

function unpackZip(
  bytes: Uint8Array,
  wanted: (name: string) => boolean,
): Record<string, Uint8Array<ArrayBuffer>> {
  let total = 0
  try {
    return unzipSync(bytes, {
      filter({ name, originalSize }) {
        if (!wanted(name)) return false
        total += originalSize
        if (total > LARGEST_ZIP_BYTES) throw new EngineError('The zip holds more than 4 GiB.')
        return true
      },
    }) as Record<string, Uint8Array<ArrayBuffer>>
  } catch (error) {
    if (error instanceof EngineError) throw error
    throw new EngineError('The file cannot be unpacked: it is damaged or not a zip.')
  }
}

self.onmessage = async (event: MessageEvent<ToFileWorker>) => {
  const { name, input } = event.data
  const send = (message: FromFileWorker) => self.postMessage(message)
  try {
    const run = runners[name] as Runner<typeof name>
    const output = await run(input as never, (stage, share) =>
      send({ kind: 'progress', stage, share }),
    )
    send({ kind: 'done', output })
  } catch (error) {
    send({ kind: 'failed', sentence: errorSentence(error) })
  }
}
