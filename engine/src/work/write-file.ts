import { scaled, type WavBits, WavWriter } from '@sober-prism/core/audio'
import { type OutputFigures, OutputMeter } from '@sober-prism/core/loudness'
import type { Pieces } from './sound-pieces'
import type { MixInput, Progress } from './tasks'
import { turn } from './turn'

export async function measureOutput(
  pieces: Pieces,
  channels: number,
  { sampleRateHz, stretch }: Pick<MixInput, 'sampleRateHz' | 'stretch'>,
  onProgress: Progress,
): Promise<OutputFigures> {
  const meter = new OutputMeter(sampleRateHz, channels)
  const length = stretch.toFrame - stretch.fromFrame
  await follow(pieces, length, onProgress, (piece) => meter.add(piece))
  return meter.finish()
}

export async function* louder(pieces: Pieces, gain: number): Pieces {
  for await (const piece of pieces) yield piece.map((channel) => scaled(channel, gain))
}

/** Takes piece after piece, and lets other messages have their turn between. */
export async function follow(
  pieces: Pieces,
  length: number,
  onProgress: Progress,
  take: (piece: readonly Float32Array[]) => void,
): Promise<void> {
  let done = 0
  for await (const piece of pieces) {
    take(piece)
    done += piece[0].length
    onProgress(done / length)
    await turn()
  }
}

/** A WAV file, written piece by piece: the browser keeps what is large on disk. */
export async function writeFile(
  pieces: Pieces,
  channels: number,
  { sampleRateHz, stretch, bits }: Pick<MixInput, 'sampleRateHz' | 'stretch'> & { bits: WavBits },
  onProgress: Progress,
) {
  const frames = stretch.toFrame - stretch.fromFrame
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

const FLUSH_BYTES = 8e6
