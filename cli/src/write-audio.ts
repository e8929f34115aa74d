import { type WavBits, WavWriter } from '@sober-prism/core/audio'
import { FileError } from './cli-error'
import { WholeFile } from './whole-file'

export const BITS: Readonly<Record<'16' | '24' | '32f', WavBits>> = {
  '16': 16,
  '24': 24,
  '32f': '32f',
}

export interface WavTarget {
  readonly cwd: string
  readonly file: string
  readonly force: boolean
  readonly sampleRateHz: number
  readonly channels: number
  readonly frames: number
  readonly bits: WavBits
}

/** Writes sound as a WAV file while it comes; whole or not at all. @throws FileError */
export async function writeAudio(
  target: WavTarget,
  pieces: AsyncIterable<readonly Float32Array[]>,
  onPiece: (piece: readonly Float32Array[]) => void = () => {},
): Promise<void> {
  const { cwd, file, force, sampleRateHz, channels, frames, bits } = target
  const writer = makeWriter(file, sampleRateHz, channels, frames, bits)
  const out = await WholeFile.create(cwd, file, force)
  try {
    await out.write(writer.header())
    for await (const piece of pieces) {
      onPiece(piece)
      await out.write(writer.encode(piece, piece[0].length))
    }
    await out.write(writer.end())
  } catch (error) {
    await out.discard()
    throw error
  }
  await out.finish()
}

function makeWriter(...[file, ...args]: [string, ...ConstructorParameters<typeof WavWriter>]) {
  try {
    return new WavWriter(...args)
  } catch (error) {
    if (error instanceof RangeError) throw new FileError(file, error.message)
    throw error
  }
}
