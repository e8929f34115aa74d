import { readLeveller, thresholdFor } from '@sober-prism/core/dynamics'
import {
  readSource,
  readVoice,
  type VoiceMove,
  type VoiceReading,
  voiceMoves,
} from '@sober-prism/core/findings'
import { streamRun } from '@sober-prism/core/mix'
import { writeChainFile } from '@sober-prism/core/session'
import { newChainBand, newTreatment, type Treatment } from '@sober-prism/core/treatments'
import { parseCall } from '../arguments'
import { type AudioFile, fromClip } from '../audio-file'
import { chainRun } from '../chain-run'
import { UsageError } from '../cli-error'
import { readClip } from '../files'
import { readLevels } from '../leveller-levels'
import type { Command } from '../run'
import { figure } from '../table'
import { writeText } from '../whole-file'
import { BITS, writeAudio } from '../write-audio'

const PARTS = ['roll-off', 'nearness', 'clarity', 'leveller'] as const
const SPEC = {
  usage: `chain VOICE [--without PART[,PART…]] [--at-most DB] [--out CHAIN.json] [--apply OUT.wav] [--bits 16|24|32f] [--force] [--json], with PART one of ${PARTS.join(', ')}`,
  options: {
    without: 'string',
    'at-most': 'string',
    out: 'string',
    apply: 'string',
    bits: 'string',
  },
  files: { min: 1, max: 1 },
} as const
const USUAL_AT_MOST_DB = 4

/** `prism chain`: a voice's chain from its own measurements; written and applied on demand. */
export const chain: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const [file] = call.files
  const without = (call.text('without') ?? '').split(',').filter(Boolean)
  const unknown = without.find((w) => !PARTS.includes(w as (typeof PARTS)[number]))
  if (unknown !== undefined) {
    throw new UsageError(`--without takes ${PARTS.join(', ')}, not ${unknown}`, SPEC.usage)
  }
  const atMostDb = call.number('at-most') ?? USUAL_AT_MOST_DB
  if (!(atMostDb >= 0 && atMostDb <= 24)) {
    throw new UsageError('--at-most takes 0 to 24', SPEC.usage)
  }
  const bits = BITS[call.choice('bits', ['16', '24', '32f'], '24')]
  const clip = await readClip(around.cwd, file)
  around.progress('measuring')
  const voice = readVoice(readSource(clip))
  const moves = voiceMoves(voice).filter((m) => !without.includes(m.what))
  const bands = bandTreatments(moves)
  const audio = fromClip(clip)
  const levelled = without.includes('leveller') ? null : await leveller(audio, bands, atMostDb)
  const treatments = levelled ? [...bands, levelled.treatment] : bands
  const [out, applied] = [call.text('out'), call.text('apply')]
  if (out !== undefined) {
    await writeText(around.cwd, out, writeChainFile(treatments), call.force)
  }
  if (applied !== undefined) {
    const { sampleRateHz, channels, frames } = audio
    const sound = { sampleRateHz, channels, frames }
    const target = { cwd: around.cwd, file: applied, force: call.force, ...sound, bits }
    let done = 0
    await writeAudio(target, streamRun(chainRun(audio, treatments)), (piece) => {
      around.progress(`applying ${Math.round((100 * done) / frames)} %`)
      done += piece[0].length
    })
  }
  around.progress('')
  if (call.json) {
    const list = moves.map(({ what, band, why }) => ({ what, ...band, why }))
    const { thresholdDb, deepestDb, meanDb } = levelled ?? NOT_LEVELLED
    const level = levelled && { atMostDb, thresholdDb, deepestDb, meanDb }
    const json = JSON.parse(writeChainFile(treatments))
    around.out(
      `${JSON.stringify({ file, voice: toJson(voice), moves: list, leveller: level, chain: json, out: applied })}\n`,
    )
    return
  }
  for (const { what, band, why } of moves) {
    const gain = band.type === 'low-cut' ? '' : ` ${figure(band.db)} dB Q ${figure(band.q, 2)}`
    around.out(`${what}: ${band.type} ${figure(band.hz, 0)} Hz${gain}\n  ${why}\n`)
  }
  if (levelled) {
    around.out(
      `leveller: max reduction ${figure(-levelled.deepestDb)} dB, above ${figure(levelled.thresholdDb)} dB\n`,
    )
  }
  if (treatments.length === 0) around.out('Nothing is proposed.\n')
}

const NOT_LEVELLED = { thresholdDb: null, deepestDb: null, meanDb: null }

const toJson = ({ lowestHz, nearnessDb, clarityDb }: VoiceReading) => ({
  lowestHz,
  nearnessDb,
  clarityDb,
})

/** The roll-off belongs to Clean, tone to Shape. */
function bandTreatments(moves: readonly VoiceMove[]): Treatment[] {
  return (['clean', 'shape'] as const).flatMap((stage) => {
    const own = moves.filter((m) => (m.what === 'roll-off') === (stage === 'clean'))
    const bands = own.map(({ what, band }) => newChainBand(what, band))
    return bands.length === 0
      ? []
      : [newTreatment('equaliser', `voice-${stage}`, stage, { phase: 'minimum', bands })]
  })
}

/** A leveller behind the bands that takes just so much at the loudest; null where the voice is too quiet for it. */
async function leveller(audio: AudioFile, bands: readonly Treatment[], atMostDb: number) {
  const wanted = { ...newTreatment('leveller', 'level', 'shape').params, atMostDb }
  const levels = await readLevels(audio, streamRun(chainRun(audio, bands)), wanted.lowCutHz)
  const thresholdDb = thresholdFor(levels, wanted, audio.sampleRateHz)
  if (thresholdDb === null) return null
  const params = { ...wanted, thresholdDb }
  const treatment = newTreatment('leveller', 'level', 'shape', params)
  return { treatment, thresholdDb, ...readLeveller(levels, params, audio.sampleRateHz) }
}
