import { amplitudeToDb } from '@sober-prism/core/audio'
import { responsePoints } from '@sober-prism/core/playback'
import { parseCall } from '../arguments'
import { UsageError } from '../cli-error'
import { readClip } from '../files'
import type { Command } from '../run'
import { figure, formatTable } from '../table'
import { playThrough, readThrough } from '../through'
import { BITS } from '../write-audio'
import { writeClip } from './keyed'

const SPEC = {
  usage:
    'playback IN OUT.wav --through NAME|DESCRIPTION.json|IR.wav [--bits 16|24|32f] [--force] [--json]',
  options: { through: 'string', bits: 'string' },
  files: { min: 2, max: 2 },
} as const

/** `prism playback`: a recording as it sounds elsewhere, as loud as before. */
export const playback: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const [inFile, out] = call.files
  const given = call.text('through')
  if (given === undefined) throw new UsageError('--through is missing', SPEC.usage)
  const bits = BITS[call.choice('bits', ['16', '24', '32f'], '32f')]
  const clip = await readClip(around.cwd, inFile)
  around.progress('making the playback')
  const through = await readThrough(around.cwd, given, clip.sampleRateHz)
  around.progress('playing')
  const played = await playThrough(clip, through)
  await writeClip(around, out, played.clip, { force: call.force, bits })
  around.progress('')
  const gainDb = amplitudeToDb(played.levels.gain)
  const response = responsePoints(through.response, clip.sampleRateHz).map(({ hz, db }) => ({
    hz,
    db: db + gainDb,
  }))
  if (call.json) {
    const { playback: description } = through
    const result = { out, through: through.name, gainDb, response, description }
    around.out(`${JSON.stringify(result)}\n`)
    return
  }
  around.out(`${out}: ${inFile} ${through.where}, raised by ${figure(gainDb)} dB\n`)
  around.out(formatTable([['Hz', 'dB'], ...response.map((p) => [figure(p.hz, 0), figure(p.db)])]))
}
