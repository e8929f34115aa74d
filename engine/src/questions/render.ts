import { dbToAmplitude, scaled, type WavBits, WavWriter } from '@sober-prism/core/audio'
import {
  type Normalise,
  normalisingGain,
  type OutputFigures,
  OutputMeter,
} from '@sober-prism/core/loudness'
import { follow, lengthOf, openInput, type Pieces } from './open-input'
import type { Answerer, Progress, SoundInput } from './question'

/** A file that was written piece by piece, with its figures. */
export interface WrittenFile extends OutputFigures {
  readonly blob: Blob
  /** What it was brought there by; null where it was left as it is. */
  readonly normalised: { readonly gainDb: number; readonly heldByPeak: boolean } | null
}

interface RenderInput extends SoundInput {
  readonly bits: WavBits
  readonly normalise: Normalise | null
}

/** A sound as a file. */
export const answerRender: Answerer<RenderInput, WrittenFile> = async (input, onProgress) => {
  const { normalise } = input
  if (!normalise) return writeFile(openInput(input).pieces, input, onProgress)
  // Once to measure it, and again with the gain.
  const figures = await measureOutput(input, (share) => onProgress(share / 2))
  const gain = normalisingGain(figures, normalise)
  const raised = louder(openInput(input).pieces, dbToAmplitude(gain.gainDb))
  const written = await writeFile(raised, input, (share) => onProgress(0.5 + share / 2))
  return { ...written, normalised: gain }
}

async function measureOutput(input: SoundInput, onProgress: Progress): Promise<OutputFigures> {
  const { sampleRateHz, channels } = input.sound
  const meter = new OutputMeter(sampleRateHz, channels)
  const length = lengthOf(input.stretch)
  await follow(openInput(input).pieces, length, onProgress, (piece) => meter.add(piece))
  return meter.finish()
}

async function* louder(pieces: Pieces, gain: number): Pieces {
  for await (const piece of pieces) yield piece.map((channel) => scaled(channel, gain))
}

const FLUSH_BYTES = 8e6

/** A WAV file, written piece by piece: the browser keeps what is large on disk. */
async function writeFile(
  pieces: Pieces,
  { sound, stretch, bits }: RenderInput,
  onProgress: Progress,
): Promise<WrittenFile> {
  const { sampleRateHz, channels } = sound
  const frames = lengthOf(stretch)
  const writer = new WavWriter(sampleRateHz, channels, frames, bits)
  const meter = new OutputMeter(sampleRateHz, channels)
  const written: Blob[] = []
  let held: Uint8Array<ArrayBuffer>[] = [writer.header()]
  let heldBytes = 0
  const flush = () => {
    written.push(new Blob(held))
    held = []
    heldBytes = 0
  }
  await follow(pieces, frames, onProgress, (piece) => {
    const bytes = writer.encode(piece, piece[0].length)
    meter.add(piece)
    held.push(bytes)
    heldBytes += bytes.length
    if (heldBytes > FLUSH_BYTES) flush()
  })
  held.push(writer.end())
  flush()
  return { blob: new Blob(written, { type: 'audio/wav' }), ...meter.finish(), normalised: null }
}
