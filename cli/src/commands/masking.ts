import { type Clip, resample } from '@sober-prism/core/audio'
import {
  activityOf,
  DEFAULT_CALIBRATION,
  heardMoments,
  MASKING_MODEL,
  maskTracks,
  midAndSide,
  pairMasking,
  perErb,
  planMoments,
  trackMasking,
} from '@sober-prism/core/hearing'
import { LISTENING } from '@sober-prism/core/session'
import { parseCall } from '../arguments'
import { cutSeconds, readClip } from '../files'
import type { Command } from '../run'
import { figure, formatTable } from '../table'

const SPEC = {
  usage: 'masking FILE FILE… [--from S --to S] [--mono] [--listening speakers|headphones] [--json]',
  options: { from: 'string', to: 'string', mono: 'boolean', listening: 'string' },
  files: { min: 2, max: Number.POSITIVE_INFINITY },
} as const

/** `prism masking`: what survives of each file's loudness beside the others, and who takes the rest. */
export const masking: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const from = call.number('from')
  const to = call.number('to')
  const listening = call.choice('listening', LISTENING, 'speakers')
  const clips: Clip[] = []
  for (const file of call.files) {
    around.progress(`reading ${file}`)
    clips.push(cutSeconds(await readClip(around.cwd, file), file, from, to))
  }
  const rate = Math.max(...clips.map((c) => c.sampleRateHz))
  const resampled = clips.map((clip) => resample(clip, rate))
  const longest = Math.max(...resampled.map((c) => c.frames))
  const activities = resampled.map((c) => activityOf(c.channels))
  const moments = planMoments(rate, longest, activities, MOST_MOMENTS)
  const tracks = resampled.map((clip, i) => {
    around.progress(`measuring ${call.files[i]}`)
    return { heard: heardMoments(midAndSide(clip.channels), rate, moments), gainDb: 0 }
  })
  around.progress('masking')
  const mode = call.flag('mono') ? 'mono' : 'stereo'
  const sums = maskTracks(tracks, { calibration: DEFAULT_CALIBRATION, mode, listening })
  around.progress('')
  const sum = (values: Float64Array) => values.reduce((a, b) => a + b, 0)
  const result = call.files.map((file, i) => {
    const { aloneSone, inMixSone, audibleShare, hidden, crowded, clear, ...more } = trackMasking(
      sums,
      i,
    )
    return {
      file,
      aloneSone,
      inMixSone,
      audibleShare,
      hidden,
      crowded,
      clear,
      lostToSidesSone: sum(more.lostToSides),
    }
  })
  const pairs = call.files.flatMap((target, t) =>
    call.files.flatMap((masker, m) => {
      if (t === m) return []
      const pair = pairMasking(sums, t, m)
      const bands = perErb(pair.lost).map(({ hz, value }) => ({ hz, lostSone: value }))
      const overTime = { seconds: sums.slotSeconds, lostSone: Array.from(pair.when) }
      return [{ target, masker, lostSone: pair.lostSone, bands, overTime }]
    }),
  )
  if (call.json) {
    const document = {
      model: MASKING_MODEL,
      calibration: DEFAULT_CALIBRATION,
      listening,
      tracks: result,
      pairs,
    }
    around.out(`${JSON.stringify(document)}\n`)
    return
  }
  const percent = (share: number) => `${figure(100 * share, 0)} %`
  around.out(
    formatTable([
      ['track', 'alone sone', 'in mix sone', 'heard', 'hidden', 'crowded', 'clear'],
      ...result.map((r) => [
        r.file,
        figure(r.aloneSone, 2),
        figure(r.inMixSone, 2),
        percent(r.audibleShare),
        percent(r.hidden),
        percent(r.crowded),
        percent(r.clear),
      ]),
    ]),
  )
  const strongest = [...pairs].sort((a, b) => b.lostSone - a.lostSone).slice(0, 12)
  around.out(
    `\n${formatTable([['track', 'masked by', 'lost sone'], ...strongest.map((p) => [p.target, p.masker, figure(p.lostSone, 2)])])}`,
  )
}

/** A terminal has time: twice as many moments as the app listens to. */
const MOST_MOMENTS = 1600
