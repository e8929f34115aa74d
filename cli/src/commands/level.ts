import { readLeveller, thresholdFor } from '@sober-prism/core/dynamics'
import { LoudnessMeter } from '@sober-prism/core/loudness'
import { streamRun } from '@sober-prism/core/mix'
import { type LevellerParams, newTreatment } from '@sober-prism/core/treatments'
import { parseCall } from '../arguments'
import { openAudio, piecesOf } from '../audio-file'
import { chainRun } from '../chain-run'
import { FileError, UsageError } from '../cli-error'
import { readLevels } from '../leveller-levels'
import type { Command } from '../run'
import { figure } from '../table'
import { BITS, writeAudio } from '../write-audio'

const SPEC = {
  usage:
    'level IN.wav OUT.wav [--at-most DB] [--threshold DB] [--ratio R] [--bits 16|24|32f] [--force] [--json]',
  options: { 'at-most': 'string', threshold: 'string', ratio: 'string', bits: 'string' },
  files: { min: 2, max: 2 },
} as const
const USUAL_AT_MOST_DB = 4

/** `prism level`: gentle compression that takes at most so much at the loudest. */
export const level: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const [input, out] = call.files
  const bits = BITS[call.choice('bits', ['16', '24', '32f'], '24')]
  const number = (name: 'at-most' | 'threshold' | 'ratio', low: number, high: number) => {
    const value = call.number(name)
    if (value !== undefined && !(value >= low && value <= high)) {
      throw new UsageError(`--${name} takes ${low} to ${high}`, SPEC.usage)
    }
    return value
  }
  const usual = newTreatment('leveller', 'level', 'shape').params
  const atMostDb = number('at-most', 0, 24) ?? USUAL_AT_MOST_DB
  const ratio = number('ratio', 1, 100) ?? usual.ratio
  const threshold = number('threshold', -80, 0)
  const audio = await openAudio(around.cwd, input)
  try {
    const { sampleRateHz, channels, frames } = audio
    const before = new LoudnessMeter(sampleRateHz, channels)
    const levels = await readLevels(audio, piecesOf(audio, 0, frames), usual.lowCutHz, (piece) =>
      before.add(piece),
    )
    const wanted = { ...usual, atMostDb, ratio }
    const thresholdDb = threshold ?? thresholdFor(levels, wanted, sampleRateHz)
    if (thresholdDb === null) {
      throw new FileError(
        input,
        `is too quiet for ${atMostDb} dB of reduction, or the ratio is too low`,
      )
    }
    const params: LevellerParams = { ...wanted, thresholdDb }
    const run = chainRun(audio, [newTreatment('leveller', 'level', 'shape', params)])
    const after = new LoudnessMeter(sampleRateHz, channels)
    const target = { cwd: around.cwd, file: out, force: call.force, sampleRateHz, channels, frames }
    let done = 0
    await writeAudio({ ...target, bits }, streamRun(run), (piece) => {
      after.add(piece)
      around.progress(`levelling ${Math.round((100 * done) / frames)} %`)
      done += piece[0].length
    })
    around.progress('')
    const { deepestDb, meanDb } = readLeveller(levels, params, sampleRateHz)
    const [lufsBefore, lufsAfter] = [before, after].map((m) => m.read().integratedLufs)
    if (call.json) {
      const result = { out, thresholdDb, ratio, deepestDb, meanDb, lufsBefore, lufsAfter }
      around.out(`${JSON.stringify(result)}\n`)
      return
    }
    around.out(
      `reduction ${figure(-deepestDb)} dB maximum, ${figure(-meanDb)} dB average, above ${figure(thresholdDb)} dB at ${figure(ratio)}:1\n` +
        `${figure(lufsBefore)} → ${figure(lufsAfter)} LUFS\n`,
    )
  } finally {
    await audio.close()
  }
}
