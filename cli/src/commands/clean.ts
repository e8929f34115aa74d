import type { EqBand } from '@sober-prism/core/filters'
import { type Candidate, cleaningCandidates, readSource } from '@sober-prism/core/findings'
import { streamRun } from '@sober-prism/core/mix'
import { writeEqFile } from '@sober-prism/core/session'
import { newChainBand, newTreatment } from '@sober-prism/core/treatments'
import { parseCall } from '../arguments'
import { fromClip } from '../audio-file'
import { chainRun } from '../chain-run'
import { readClip } from '../files'
import type { Command } from '../run'
import { figure } from '../table'
import { BITS, writeAudio } from '../write-audio'

const SPEC = {
  usage: 'clean FILE [--apply OUT.wav] [--all] [--bits 16|24|32f] [--force] [--json]',
  options: { apply: 'string', all: 'boolean', bits: 'string' },
  files: { min: 1, max: 1 },
} as const

/** `prism clean`: what in a sound may not belong to its source; applied on demand. */
export const clean: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const [file] = call.files
  const out = call.text('apply')
  const bits = BITS[call.choice('bits', ['16', '24', '32f'], '24')]
  const clip = await readClip(around.cwd, file)
  around.progress('measuring')
  const candidates = cleaningCandidates(readSource(clip))
  // Pencil marks are to be listened to first: they are applied only when all are asked for.
  const isApplied = (c: Candidate) => out !== undefined && (c.isFinding || call.flag('all'))
  if (out !== undefined) {
    const audio = fromClip(clip)
    const { sampleRateHz, channels, frames } = audio
    const bands = candidates.filter(isApplied).flatMap((c) => c.bands)
    const target = { cwd: around.cwd, file: out, force: call.force, sampleRateHz, channels, frames }
    const run = chainRun(audio, [equaliserOf(bands)])
    let done = 0
    await writeAudio({ ...target, bits }, streamRun(run), (piece) => {
      around.progress(`applying ${Math.round((100 * done) / frames)} %`)
      done += piece[0].length
    })
  }
  around.progress('')
  if (call.json) {
    const list = candidates.map((c) => ({ ...toJson(c), applied: isApplied(c) }))
    around.out(
      `${JSON.stringify({ file, ...(out === undefined ? {} : { out }), candidates: list })}\n`,
    )
    return
  }
  if (candidates.length === 0) around.out('No problems found.\n')
  for (const c of candidates) around.out(inWords(c, isApplied(c)))
}

function toJson({ kind, hz, q, db, likelihood, isFinding, bands, why }: Candidate) {
  const edit = JSON.parse(writeEqFile(bands))
  return { kind, hz, q, db, likelihood, level: isFinding ? 'finding' : 'pencil', edit, why }
}

function inWords(
  { kind, hz, db, likelihood, isFinding, why }: Candidate,
  applied: boolean,
): string {
  const sure = likelihood === null ? '' : `, ${figure(100 * likelihood, 0)} % likely`
  const mark = applied ? ' (applied)' : isFinding ? '' : ' (tentative: listen first)'
  return `${kind} at ${figure(hz)} Hz, ${figure(db)} dB${sure}${mark}\n  ${why}\n`
}

function equaliserOf(bands: readonly EqBand[]) {
  const chainBands = bands.map((band, i) => newChainBand(`${i}`, band))
  return newTreatment('equaliser', 'clean', 'clean', { phase: 'minimum', bands: chainBands })
}
