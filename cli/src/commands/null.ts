import { resample } from '@sober-prism/core/audio'
import { nullTest, nullVerdict } from '@sober-prism/core/null-test'
import { parseCall } from '../arguments'
import { readClip } from '../files'
import type { Command } from '../run'
import { figure, formatTable } from '../table'
import { BITS } from '../write-audio'
import { writeClip } from './keyed'

const SPEC = {
  usage: 'null A B [--align] [--gain] [--residue OUT.wav] [--bits 16|24|32f] [--force] [--json]',
  options: { align: 'boolean', gain: 'boolean', residue: 'string', bits: 'string' },
  files: { min: 2, max: 2 },
} as const

/** `prism null`: what is left of one recording less another. */
export const nullOf: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const [firstFile, secondFile] = call.files
  const bits = BITS[call.choice('bits', ['16', '24', '32f'], '32f')]
  const first = await readClip(around.cwd, firstFile)
  const second = resample(await readClip(around.cwd, secondFile), first.sampleRateHz)
  around.progress('taking one from the other')
  const { reading, residue } = nullTest(first, second, {
    align: call.flag('align'),
    gain: call.flag('gain'),
  })
  const out = call.text('residue')
  if (out !== undefined) await writeClip(around, out, residue, { force: call.force, bits })
  around.progress('')
  const verdict = nullVerdict(reading)
  if (call.json) {
    const result = { ...reading, verdict, ...(out !== undefined && { out }) }
    around.out(`${JSON.stringify(result)}\n`)
    return
  }
  const { nullDb, delayFrames, gainDb, bands } = reading
  around.out(
    `${verdict}\nleft: ${figure(nullDb)} dB; moved by ${figure(delayFrames, 2)} samples, raised by ${figure(gainDb, 2)} dB\n`,
  )
  around.out(
    formatTable([
      ['Hz', 'left, dB', 'level, dB'],
      ...bands.map((b) => [figure(b.hz, 0), figure(b.db), figure(b.levelDb, 2)]),
    ]),
  )
}
