import { amplitudeToDb, CorrelationMeter } from '@sober-prism/core/audio'
import { USUAL_HEARING } from '@sober-prism/core/findings'
import { loudnessOverTime } from '@sober-prism/core/hearing'
import { LoudnessMeter } from '@sober-prism/core/loudness'
import { parseCall } from '../arguments'
import { openAudio, piecesOf } from '../audio-file'
import { startWork } from '../beside'
import { readClip } from '../files'
import type { Command } from '../run'
import { figure, formatTable } from '../table'

const SPEC = {
  usage: 'inspect FILE… [--sones] [--json]',
  options: { sones: 'boolean' },
  files: { min: 1, max: Number.POSITIVE_INFINITY },
} as const

/** `prism inspect`: loudness, peaks and correlation of files. */
export const inspect: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const hasSones = call.flag('sones')
  const files = []
  for (const [index, file] of call.files.entries()) {
    around.progress(`${index + 1} of ${call.files.length}: ${file}`)
    const measured = await measureFile(around.cwd, file)
    const sones: Partial<SoneFigures> = hasSones ? await soneFigures(around.cwd, file) : {}
    files.push({ ...measured, ...sones })
  }
  around.progress('')
  if (call.json) {
    around.out(`${JSON.stringify({ files })}\n`)
    return
  }
  around.out(
    formatTable([
      [
        'file',
        'Hz',
        'ch',
        'seconds',
        'LUFS',
        'LRA',
        'max M',
        'max S',
        'dBTP',
        'dBFS',
        'corr',
        ...(hasSones ? ['short sone', 'long sone'] : []),
      ],
      ...files.map((f) => [
        f.file,
        String(f.sampleRateHz),
        String(f.channels),
        figure(f.seconds, 2),
        figure(f.integratedLufs),
        figure(f.loudnessRangeLu),
        figure(f.maxMomentaryLufs),
        figure(f.maxShortTermLufs),
        figure(f.truePeakDbtp),
        figure(f.samplePeakDbfs),
        figure(f.correlation, 2),
        ...(hasSones
          ? [figure(f.maxShortTermSone ?? null), figure(f.maxLongTermSone ?? null)]
          : []),
      ]),
    ]),
  )
}

interface SoneFigures {
  readonly maxShortTermSone: number
  readonly maxLongTermSone: number
}

/** The loudest that hearing makes of a file played at the usual level: of a syllable, of a phrase; in sone. */
async function soneFigures(cwd: string, file: string): Promise<SoneFigures> {
  const { shortTerm, longTerm } = loudnessOverTime(await readClip(cwd, file), USUAL_HEARING)
  const most = (values: Float64Array) => values.reduce((a, b) => Math.max(a, b), 0)
  return { maxShortTermSone: most(shortTerm), maxLongTermSone: most(longTerm) }
}

/** Reads a file a piece at a time; peaks of a long one in a thread beside. */
async function measureFile(cwd: string, file: string) {
  const opened = await openAudio(cwd, file)
  try {
    const { sampleRateHz, channels, frames } = opened
    const loudness = new LoudnessMeter(sampleRateHz, channels)
    const correlation = new CorrelationMeter()
    const peaks = startWork({ job: 'peaks', call: { channels } }, channels, frames)
    for await (const piece of piecesOf(opened, 0, frames)) {
      await peaks.add(piece)
      loudness.add(piece)
      correlation.add(piece)
    }
    const { truePeak, samplePeak } = await peaks.finish()
    return {
      file,
      sampleRateHz,
      channels,
      frames,
      seconds: frames / sampleRateHz,
      ...loudness.read(),
      truePeakDbtp: inDb(truePeak, 1e-10),
      samplePeakDbfs: inDb(samplePeak, 0),
      correlation: correlation.read(),
    }
  } finally {
    await opened.close()
  }
}

function inDb(amplitude: number, above: number): number | null {
  return amplitude > above ? amplitudeToDb(amplitude) : null
}
