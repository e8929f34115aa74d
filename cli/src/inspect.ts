import { amplitudeToDb, channelCorrelation, samplePeak } from '@sober-prism/core/audio'
import { measureLoudness, truePeakDbtp } from '@sober-prism/core/loudness'
import { parseCall } from './arguments'
import { readClip } from './files'
import type { Command } from './run'
import { figure, formatTable } from './table'

const SPEC = {
  usage: 'inspect FILE… [--json]',
  options: {},
  files: { min: 1, max: Number.POSITIVE_INFINITY },
}

/** `prism inspect`: loudness, peaks and correlation of files. */
export const inspect: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const files = []
  for (const [index, file] of call.files.entries()) {
    around.progress(`${index + 1} of ${call.files.length}: ${file}`)
    const clip = await readClip(around.cwd, file)
    const peak = samplePeak(clip.channels)
    files.push({
      file,
      sampleRateHz: clip.sampleRateHz,
      channels: clip.channels.length,
      frames: clip.frames,
      seconds: clip.frames / clip.sampleRateHz,
      ...measureLoudness(clip),
      truePeakDbtp: truePeakDbtp(clip),
      samplePeakDbfs: peak > 0 ? amplitudeToDb(peak) : null,
      correlation: channelCorrelation(clip),
    })
  }
  around.progress('')
  if (call.json) {
    around.out(`${JSON.stringify({ files })}\n`)
    return
  }
  around.out(
    formatTable([
      ['file', 'Hz', 'ch', 'seconds', 'LUFS', 'LRA', 'max M', 'max S', 'dBTP', 'dBFS', 'corr'],
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
      ]),
    ]),
  )
}
