import { type Clip, resample } from '@sober-prism/core/audio'
import {
  DEFAULT_CALIBRATION,
  hearingBands,
  MASKING_MODEL,
  maskFrames,
  maskingFrames,
  pairMasking,
  perErb,
  SLOT_FRAMES,
  trackMasking,
} from '@sober-prism/core/hearing'
import { parseCall } from './arguments'
import { cutSeconds, readClip } from './files'
import type { Command } from './run'
import { figure, formatTable } from './table'

const SPEC = {
  usage: 'masking FILE FILE… [--from S --to S] [--mono] [--json]',
  options: { from: 'string', to: 'string', mono: 'boolean' },
  files: { min: 2, max: Number.POSITIVE_INFINITY },
} as const

/** `prism masking`: what survives of each file's loudness beside the others, and who takes the rest. */
export const masking: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const from = call.number('from')
  const to = call.number('to')
  const clips: Clip[] = []
  for (const file of call.files) {
    around.progress(`reading ${file}`)
    clips.push(cutSeconds(await readClip(around.cwd, file), file, from, to))
  }
  const rate = Math.max(...clips.map((c) => c.sampleRateHz))
  const resampled = clips.map((clip) => resample(clip, rate))
  const longest = Math.max(...resampled.map((c) => c.frames))
  const tracks = resampled.map((clip) => ({
    bands: hearingBands(clip, longest),
    gainDb: 0,
  }))
  around.progress('masking')
  const sums = maskFrames(
    tracks,
    DEFAULT_CALIBRATION,
    call.flag('mono') ? 'mono' : 'stereo',
    0,
    maskingFrames(tracks),
  )
  around.progress('')
  const result = call.files.map((file, i) => {
    const { aloneSone, inMixSone, audibleShare, lostToSides, crowded } = trackMasking(sums, i)
    const sum = (values: Float64Array) => values.reduce((a, b) => a + b, 0)
    return {
      file,
      aloneSone,
      inMixSone,
      audibleShare,
      lostToSidesSone: sum(lostToSides),
      lostInCrowdSone: sum(crowded),
    }
  })
  const slotSeconds = SLOT_FRAMES * tracks[0].bands.secondsPerFrame
  const pairs = call.files.flatMap((target, t) =>
    call.files.flatMap((masker, m) => {
      if (t === m) return []
      const pair = pairMasking(sums, t, m)
      const bands = perErb(pair.lost).map(({ hz, value }) => ({ hz, lostSone: value }))
      const overTime = { seconds: slotSeconds, lostSone: Array.from(pair.when) }
      return [{ target, masker, lostSone: pair.lostSone, bands, overTime }]
    }),
  )
  if (call.json) {
    const document = {
      model: MASKING_MODEL,
      calibration: DEFAULT_CALIBRATION,
      tracks: result,
      pairs,
    }
    around.out(`${JSON.stringify(document)}\n`)
    return
  }
  around.out(
    formatTable([
      ['track', 'alone sone', 'in mix sone', 'heard'],
      ...result.map((r) => [
        r.file,
        figure(r.aloneSone, 2),
        figure(r.inMixSone, 2),
        `${figure(100 * r.audibleShare, 0)} %`,
      ]),
    ]),
  )
  const strongest = [...pairs].sort((a, b) => b.lostSone - a.lostSone).slice(0, 12)
  around.out(
    `\n${formatTable([['track', 'covered by', 'lost sone'], ...strongest.map((p) => [p.target, p.masker, figure(p.lostSone, 2)])])}`,
  )
}
