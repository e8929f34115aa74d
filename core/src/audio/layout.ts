import { AudioError } from './audio-error'
import type { Endian } from './byte-reader'
import type { SampleFormat } from './pcm'

/** Where the samples of a file lie, and how. */
export interface AudioLayout {
  readonly sampleRateHz: number
  readonly channels: number
  readonly frames: number
  readonly sample: SampleFormat
  readonly endian: Endian
  /** Byte at which the first frame begins. */
  readonly dataAt: number
  /** Frames since midnight from a broadcast WAV's time stamp, at the file's own rate; `null` without one. */
  readonly timeStampFrames: number | null
}

/** Some bytes of a file. */
export interface ByteRange {
  readonly at: number
  readonly size: number
}

/** Reads a header step by step: asks for bytes and is given them, as many as there are. */
export type LayoutSteps = Generator<ByteRange, AudioLayout, Uint8Array>

/** Bytes that are read by ranges: a file that need not be in memory. */
export interface ByteSource {
  readonly length: number
  /** The bytes from `at` on; fewer than asked for only at the end. */
  read(at: number, size: number): Promise<Uint8Array>
}

/** Takes steps that ask for bytes, with bytes in memory. @throws what the steps throw. */
export function takeSteps<T>(bytes: Uint8Array, steps: Generator<ByteRange, T, Uint8Array>): T {
  let step = steps.next()
  while (!step.done) {
    const { at, size } = step.value
    step = steps.next(bytes.subarray(Math.min(at, bytes.length), at + size))
  }
  return step.value
}

/** Takes steps that ask for bytes, with a file. @throws what the steps throw. */
export async function takeStepsFrom<T>(
  source: ByteSource,
  steps: Generator<ByteRange, T, Uint8Array>,
): Promise<T> {
  let step = steps.next()
  while (!step.done) {
    const { at, size } = step.value
    step = steps.next(await source.read(Math.min(at, source.length), size))
  }
  return step.value
}

/** @throws AudioError when nothing of the kind is accepted. */
export function requireChannels(channels: number): void {
  if (channels < 1 || channels > 2) {
    throw new AudioError(`The file has ${channels} channels; mono and stereo are accepted.`)
  }
}
