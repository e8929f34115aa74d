import { join } from 'node:path'
import { type CrossoverSpec, crossoverSum, splitClip } from '@sober-prism/core/filters'
import { parseCall } from '../arguments'
import { UsageError } from '../cli-error'
import { readClip } from '../files'
import type { Command } from '../run'
import { figure } from '../table'
import { BITS } from '../write-audio'
import { writeClip } from './keyed'

const SPEC = {
  usage:
    'split IN.wav --at HZ[,HZ…] [--kind lr12|lr24|lr48|linear|subtract] --out DIR [--bits 16|24|32f] [--force] [--json]',
  options: { at: 'string', kind: 'string', out: 'string', bits: 'string' },
  files: { min: 1, max: 1 },
} as const

const KINDS = {
  lr12: { kind: 'linkwitz-riley', slopeDbPerOct: 12 },
  lr24: { kind: 'linkwitz-riley', slopeDbPerOct: 24 },
  lr48: { kind: 'linkwitz-riley', slopeDbPerOct: 48 },
  linear: { kind: 'linear', slopeDbPerOct: 24 },
  subtract: { kind: 'subtractive', slopeDbPerOct: 24 },
} as const
/** No crossover lies lower. */
const LOWEST_HZ = 10
const KIND_NAMES = Object.keys(KINDS) as (keyof typeof KINDS)[]

/** `prism split`: two to five bands that add up to the whole again. */
export const split: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const [file] = call.files
  const [at, out] = [call.text('at'), call.text('out')]
  if (at === undefined || out === undefined)
    throw new UsageError('--at and --out are needed', SPEC.usage)
  const bits = BITS[call.choice('bits', ['16', '24', '32f'], '24')]
  const hz = at.split(',').map(Number)
  if (
    hz.length > 4 ||
    hz.some((f, i) => !(f >= (i === 0 ? LOWEST_HZ : hz[i - 1]) && f !== hz[i - 1]))
  ) {
    throw new UsageError(
      `--at takes one to four rising frequencies of ${LOWEST_HZ} Hz or more`,
      SPEC.usage,
    )
  }
  const clip = await readClip(around.cwd, file)
  if (hz[hz.length - 1] >= clip.sampleRateHz / 2) {
    throw new UsageError(
      `--at must stay below half the sample rate of ${file}, ${clip.sampleRateHz / 2} Hz`,
      SPEC.usage,
    )
  }
  const kind = call.choice('kind', KIND_NAMES, 'lr24')
  const spec: CrossoverSpec = { ...KINDS[kind], hz }
  around.progress('splitting')
  const bands = splitClip(clip, spec)
  const { flatWithinDb, nullDb } = crossoverSum(clip, spec)
  const sumErrorDb = nullDb ?? flatWithinDb
  const files = bands.map((_, i) => join(out, `band-${i + 1}.wav`))
  for (const [i, band] of bands.entries()) {
    await writeClip(around, files[i], band, { force: call.force, bits })
  }
  around.progress('')
  const list = files.map((name, i) => ({
    file: name,
    fromHz: i === 0 ? 0 : hz[i - 1],
    toHz: i === hz.length ? clip.sampleRateHz / 2 : hz[i],
  }))
  if (call.json) {
    around.out(`${JSON.stringify({ kind, bands: list, sumErrorDb })}\n`)
    return
  }
  for (const b of list) around.out(`${b.file}: ${figure(b.fromHz)} to ${figure(b.toHz)} Hz\n`)
  const what = spec.kind === 'linkwitz-riley' ? 'the sum is flat within' : 'sum against input:'
  around.out(`${what} ${figure(sumErrorDb, 3)} dB\n`)
}
