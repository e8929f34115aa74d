import { type WavBits, WavWriter } from '@sober-prism/core/audio'
import { startWork } from './beside'
import { FileError } from './cli-error'
import { reasonOf } from './system-reason'
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
  const header = makeWriter(file, sampleRateHz, channels, frames, bits).header()
  const out = await WholeFile.create(cwd, file, force)
  const call = { fd: out.fd, sampleRateHz, channels, frames, bits }
  try {
    await out.write(header)
    const work = startWork({ job: 'write', call }, channels, frames)
    try {
      for await (const piece of pieces) {
        onPiece(piece)
        await work.add(piece)
      }
      await work.finish()
    } finally {
      await work.discard()
    }
  } catch (error) {
    await out.discard()
    if (error instanceof Error && 'code' in error) throw new FileError(file, reasonOf(error))
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
