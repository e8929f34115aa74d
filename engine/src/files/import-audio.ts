import {
  type AudioLayout,
  audioLayout,
  bytesPerSample,
  decodePcm,
  Resampler,
  takeStepsFrom,
} from '@sober-prism/core/audio'
import type { AudioRef } from '@sober-prism/core/session'
import { BLOCK_FRAMES, RecordingWriter } from '../storage/recordings'
import { BlobBytes } from './blob-bytes'
import type { ImportSource } from './jobs'

/** Sound that comes in pieces, with what is known of it ahead. */
interface Incoming {
  readonly sampleRateHz: number
  readonly channels: number
  readonly frames: number
  readonly timeStampFrames: number | null
  readonly pieces: AsyncGenerator<Float32Array[]>
}

/** What became of a sound that was brought in. */
export interface Stored {
  readonly audio: AudioRef
  readonly originalRateHz: number
  readonly timeStampSeconds: number | null
}

/**
 * Reads a sound piece by piece, brings it to a rate and stores it: a file is never in memory as a whole.
 * @throws AudioError or EngineError with a sentence; nothing is stored then.
 */
export async function importAudio(
  source: ImportSource,
  sampleRateHz: number,
  onProgress: (share: number) => void,
): Promise<Stored> {
  const incoming = await incomingOf(source)
  const { channels, frames, timeStampFrames, pieces } = incoming
  const resampler =
    incoming.sampleRateHz === sampleRateHz
      ? null
      : new Resampler(incoming.sampleRateHz, sampleRateHz, channels, frames)
  const writer = await RecordingWriter.open(channels)
  try {
    let done = 0
    for await (const piece of pieces) {
      done += piece[0].length
      await writer.add(resampler ? resampler.add(piece) : piece)
      onProgress(done / frames)
    }
    if (resampler) await writer.add(resampler.finish())
  } catch (error) {
    await writer.abort()
    throw error
  }
  return {
    audio: await writer.finish(),
    originalRateHz: incoming.sampleRateHz,
    timeStampSeconds: timeStampFrames === null ? null : timeStampFrames / incoming.sampleRateHz,
  }
}

/** A sound that comes in, piece by piece. @throws AudioError */
export async function incomingOf(source: ImportSource): Promise<Incoming> {
  return source.kind === 'file' ? openFile(source) : decoded(source)
}

async function openFile({
  file,
  format,
}: Extract<ImportSource, { kind: 'file' }>): Promise<Incoming> {
  const bytes = new BlobBytes(file)
  const layout = await takeStepsFrom(bytes, audioLayout(format, bytes.length))
  return { ...layout, pieces: readPieces(bytes, layout) }
}

async function* readPieces(
  bytes: BlobBytes,
  { sample, endian, channels, frames, dataAt }: AudioLayout,
): AsyncGenerator<Float32Array[]> {
  const frameBytes = channels * bytesPerSample(sample)
  for (let at = 0; at < frames; at += BLOCK_FRAMES) {
    const count = Math.min(BLOCK_FRAMES, frames - at)
    const data = await bytes.read(dataAt + at * frameBytes, count * frameBytes)
    yield decodePcm(data, sample, channels, endian)
  }
}

function decoded({ channels, sampleRateHz }: Extract<ImportSource, { kind: 'decoded' }>): Incoming {
  const frames = channels[0].length
  async function* pieces(): AsyncGenerator<Float32Array[]> {
    for (let at = 0; at < frames; at += BLOCK_FRAMES) {
      yield channels.map((c) => c.subarray(at, at + BLOCK_FRAMES))
    }
  }
  return {
    sampleRateHz,
    channels: channels.length,
    frames,
    timeStampFrames: null,
    pieces: pieces(),
  }
}
