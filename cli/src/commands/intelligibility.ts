import { DEFAULT_CALIBRATION, readIntelligibility, SII_BANDS } from '@sober-prism/core/hearing'
import { parseCall } from '../arguments'
import { FileError } from '../cli-error'
import { readTracks } from '../findings-input'
import type { Command } from '../run'
import { figure } from '../table'

const SPEC = {
  usage: 'intelligibility VOICE OTHER… [--from S --to S] [--json]',
  options: { from: 'string', to: 'string' },
  files: { min: 1, max: Number.POSITIVE_INFINITY },
} as const

/** `prism intelligibility`: how well a voice is understood beside other tracks, at the levels of the files. */
export const intelligibility: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const stretch = { from: call.number('from'), to: call.number('to') }
  const { tracks } = await readTracks(around.cwd, call.files, [], stretch, around.progress)
  around.progress('measuring')
  const [voice, ...others] = tracks.map((t) => t.clip)
  const reading = readIntelligibility(voice, others, DEFAULT_CALIBRATION)
  around.progress('')
  if (!reading) throw new FileError(call.files[0], 'is silent here, or shorter than a word')
  const { sii, overTime, audibility } = reading
  if (call.json) {
    const bands = SII_BANDS.map(({ hz, importance }, i) => ({
      hz,
      importance,
      audibility: audibility[i],
    }))
    around.out(`${JSON.stringify({ sii, overTime, bands, calibration: DEFAULT_CALIBRATION })}\n`)
    return
  }
  const worst = overTime.reduce((low, s) => (s.sii < low.sii ? s : low))
  around.out(
    `Speech Intelligibility Index ${figure(sii, 2)}; lowest ${figure(worst.sii, 2)} at ${figure(worst.seconds)} s\n`,
  )
}
