import { mergeProfiles, PROFILE_SUBJECTS } from '@sober-prism/core/match'
import { writeProfile } from '@sober-prism/core/session'
import { parseCall } from '../arguments'
import { UsageError } from '../cli-error'
import { profileOf, titleOf } from '../match-input'
import type { Command } from '../run'
import { figure } from '../table'
import { writeText } from '../whole-file'

const SPEC = {
  usage: `profile FILE… --out P.json [--name NAME] [--subject ${PROFILE_SUBJECTS.join('|')}] [--force] [--json]`,
  options: { out: 'string', name: 'string', subject: 'string' },
  files: { min: 1, max: 500 },
} as const

/** `prism profile`: what is known of recordings in the long run; several give one target with their spread. */
export const profile: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const out = call.text('out')
  if (out === undefined) throw new UsageError('--out is needed', SPEC.usage)
  const subject = call.choice('subject', PROFILE_SUBJECTS, 'mix')
  const name = call.text('name') ?? titleOf(call.files[0])
  if (name === '' || name.length > 200)
    throw new UsageError('--name takes 1 to 200 letters', SPEC.usage)
  const measured = []
  for (const file of call.files) {
    measured.push(await profileOf(around, file, { name: titleOf(file), subject }))
  }
  around.progress('')
  const merged = mergeProfiles(measured, { name, subject })
  await writeText(around.cwd, out, writeProfile(merged), call.force)
  const { seconds, loudness, decaySeconds, recordings } = merged
  if (call.json) {
    around.out(`${JSON.stringify({ profile: JSON.parse(writeProfile(merged)), seconds, out })}\n`)
    return
  }
  const decay = decaySeconds === null ? '' : `, decay ${figure(decaySeconds, 2)} s`
  const count = recordings === 1 ? '' : ` from ${recordings} recordings`
  around.out(
    `${out}: ${figure(seconds)} s${count}, ${figure(loudness.integratedLufs)} LUFS, range ${figure(loudness.rangeLu)} LU${decay}\n`,
  )
}
