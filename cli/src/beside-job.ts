import { writeSync } from 'node:fs'
import { type WavBits, WavWriter } from '@sober-prism/core/audio'
import { TruePeakMeter } from '@sober-prism/core/loudness'

/** Largest absolute values: between samples, and of the samples themselves. */
interface Peaks {
  readonly truePeak: number
  readonly samplePeak: number
}

/** Where samples are written, behind a header that is there. */
interface WriteCall {
  /** An open file's descriptor, which threads of a process share. */
  readonly fd: number
  readonly sampleRateHz: number
  readonly channels: number
  readonly frames: number
  readonly bits: WavBits
}

/** What can be done in a thread beside, and with what it is started. */
interface Calls {
  readonly peaks: { readonly channels: number }
  readonly write: WriteCall
}

export interface Results {
  readonly peaks: Peaks
  readonly write: null
}

export type JobName = keyof Calls
export type JobCall<J extends JobName> = { readonly job: J; readonly call: Calls[J] }
export type AnyJobCall = { [J in JobName]: JobCall<J> }[JobName]
export type ThreadCall = AnyJobCall & {
  readonly slots: readonly (readonly Float32Array[])[]
}
export type ToThread = 'end' | { readonly slot: number; readonly frames: number }
export type FromThread = { readonly free: number } | { readonly result: Results[JobName] }

interface Job<R> {
  /** The arrays are free again when it returns. */
  add(piece: readonly Float32Array[]): void
  finish(): R
}

/** Starts a job in this thread. */
export function startJob(call: AnyJobCall): Job<Results[JobName]> {
  return call.job === 'peaks' ? peakJob(call.call) : writeJob(call.call)
}

function peakJob({ channels }: Calls['peaks']): Job<Peaks> {
  const meter = new TruePeakMeter(channels)
  return {
    add: (piece) => meter.add(piece),
    finish: () => ({ truePeak: meter.finish(), samplePeak: meter.samplePeak }),
  }
}

/** Encodes and writes. @throws what the system says of the file */
function writeJob({ fd, sampleRateHz, channels, frames, bits }: WriteCall): Job<null> {
  const writer = new WavWriter(sampleRateHz, channels, frames, bits)
  return {
    add: (piece) => writeAll(fd, writer.encode(piece, piece[0].length)),
    finish: () => {
      writeAll(fd, writer.end())
      return null
    },
  }
}

function writeAll(fd: number, bytes: Uint8Array): void {
  for (let done = 0; done < bytes.length; ) done += writeSync(fd, bytes, done)
}
