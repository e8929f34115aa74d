import { resample } from '@sober-prism/core/audio'
import { alignClips, WHOLE_LINE_UP } from '@sober-prism/core/findings'
import { treatClip } from '@sober-prism/core/mix'
import { newTreatment } from '@sober-prism/core/treatments'
import { parseCall } from '../arguments'
import { FileError, UsageError } from '../cli-error'
import { readClip } from '../files'
import type { Command } from '../run'
import { figure } from '../table'
import { BITS } from '../write-audio'
import { writeClip } from './keyed'

const SPEC = {
  usage:
    'align LEAD OTHER [--from-hz HZ] [--to-hz HZ] [--apply OUT.wav] [--bits 16|24|32f] [--force] [--json]',
  options: { apply: 'string', bits: 'string', 'from-hz': 'string', 'to-hz': 'string' },
  files: { min: 2, max: 2 },
} as const

/** `prism align`: what to do to one recording so that it adds up with another of the same source. */
export const align: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const [leadFile, otherFile] = call.files
  const out = call.text('apply')
  const bits = BITS[call.choice('bits', ['16', '24', '32f'], '24')]
  const within = (name: 'from-hz' | 'to-hz', usual: number) => {
    const value = call.number(name) ?? usual
    const { fromHz, toHz } = WHOLE_LINE_UP
    if (value >= fromHz && value <= toHz) return value
    throw new UsageError(`--${name} takes ${fromHz} to ${toHz}`, SPEC.usage)
  }
  const fromHz = within('from-hz', WHOLE_LINE_UP.fromHz)
  const toHz = within('to-hz', WHOLE_LINE_UP.toHz)
  if (toHz < 1.5 * fromHz) {
    throw new UsageError('--to-hz must be at least 1.5 times --from-hz', SPEC.usage)
  }
  const other = await readClip(around.cwd, otherFile)
  const lead = resample(await readClip(around.cwd, leadFile), other.sampleRateHz)
  around.progress('lining up')
  const found = alignClips(lead, other, { fromHz, toHz })
  if (out !== undefined) {
    if (!found) throw new FileError(otherFile, `is not the same source as ${leadFile}`)
    const { delayFrames, polarity, turnDeg } = found
    const made = newTreatment('align', 'align', 'fit', { delayFrames, polarity, turnDeg })
    const moved = await treatClip(other, [made])
    await writeClip(around, out, moved, { force: call.force, bits })
  }
  around.progress('')
  if (call.json) {
    const nothing = { delayFrames: null, polarity: null, turnDeg: null, gainDb: null }
    const result = { related: found !== null, ...(found ?? nothing) }
    around.out(`${JSON.stringify(out === undefined ? result : { ...result, out })}\n`)
    return
  }
  if (!found) {
    around.out('The two files are not the same source.\n')
    return
  }
  const { delayFrames, polarity, turnDeg, gainDb } = found
  const way = delayFrames < 0 ? 'earlier' : 'later'
  around.out(
    `shift ${otherFile} ${figure(Math.abs(delayFrames), 2)} samples ${way}${polarity === -1 ? ', invert polarity' : ''}, rotate phase ${figure(turnDeg, 1)}°: the sum gains ${figure(gainDb, 1)} dB\n`,
  )
}
