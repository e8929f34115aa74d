import { LoudnessMeter } from '@sober-prism/core/loudness'
import { streamRun } from '@sober-prism/core/mix'
import type { Treatment } from '@sober-prism/core/treatments'
import { openAudio, piecesOf } from './audio-file'
import { chainRun } from './chain-run'
import type { Surroundings } from './run'
import { type BITS, writeAudio } from './write-audio'

/** A file through treatments, as loud behind them as before, aligned and as long. @returns the gain that it took, in dB. */
export async function applyAsLoud(
  { cwd, progress }: Surroundings,
  file: string,
  out: string,
  treatments: readonly Treatment[],
  options: { readonly force: boolean; readonly bits: (typeof BITS)[keyof typeof BITS] },
): Promise<number> {
  const audio = await openAudio(cwd, file)
  try {
    const { sampleRateHz, channels, frames } = audio
    const before = new LoudnessMeter(sampleRateHz, channels)
    for await (const piece of piecesOf(audio, 0, frames)) before.add(piece)
    const run = (gainDb: number) =>
      chainRun(audio, treatments, { output: { gainDb, polarity: 'normal' } })
    const after = new LoudnessMeter(sampleRateHz, channels)
    for await (const piece of streamRun(run(0))) after.add(piece)
    const lufs = [before, after].map((m) => m.read().integratedLufs)
    const gainDb = lufs[0] === null || lufs[1] === null ? 0 : lufs[0] - lufs[1]
    let done = 0
    const target = { cwd, file: out, sampleRateHz, channels, frames, ...options }
    await writeAudio(target, streamRun(run(gainDb)), (piece) => {
      progress(`applying ${Math.round((100 * done) / frames)} %`)
      done += piece[0].length
    })
    return gainDb
  } finally {
    await audio.close()
  }
}
