import { existsSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { Worker } from 'node:worker_threads'
import { TruePeakMeter } from '@sober-prism/core/loudness'
import { openAudio, piecesOf } from './audio-file'

/** Largest absolute values: between samples, and of the samples themselves. */
export interface Peaks {
  readonly truePeak: number
  readonly samplePeak: number
}

/** What a thread is started with, and what it answers. */
export interface PeakCall {
  readonly cwd: string
  readonly file: string
}

/** @throws FileError */
export async function measurePeaks({ cwd, file }: PeakCall): Promise<Peaks> {
  const opened = await openAudio(cwd, file)
  try {
    const meter = new TruePeakMeter(opened.channels)
    for await (const piece of piecesOf(opened, 0, opened.frames)) meter.add(piece)
    return readPeaks(meter)
  } finally {
    await opened.close()
  }
}

export function readPeaks(meter: TruePeakMeter): Peaks {
  return { truePeak: meter.finish(), samplePeak: meter.samplePeak }
}

/** The thread's script, which stands beside the bundled program; from its sources it runs in one thread. */
const script = new URL('./peaks-thread.mjs', import.meta.url)

/** Measures peaks in a thread of their own; null where there is none. */
export function measurePeaksBeside(cwd: string, file: string): Promise<Peaks> | null {
  if (!existsSync(fileURLToPath(script))) return null
  return new Promise((resolve, reject) => {
    const worker = new Worker(script, { workerData: { cwd, file } satisfies PeakCall })
    worker.once('message', resolve)
    worker.once('error', reject)
  })
}
