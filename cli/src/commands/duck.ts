import type { Clip } from '@sober-prism/core/audio'
import { treatClip } from '@sober-prism/core/mix'
import { erbBands, longTermPower } from '@sober-prism/core/spectrum'
import { type DuckParams, newTreatment } from '@sober-prism/core/treatments'
import { parseCall } from '../arguments'
import { UsageError } from '../cli-error'
import type { Command } from '../run'
import { figure } from '../table'
import { BITS } from '../write-audio'
import { hearAfter, heardWords, readPair, writeClip } from './keyed'

const SPEC = {
  usage:
    'duck YIELDING KEY OUT.wav [--law even|heard] [--depth DB] [--fineness 1..5] [--from-hz HZ] [--to-hz HZ] [--bits 16|24|32f] [--force] [--json]',
  options: {
    law: 'string',
    depth: 'string',
    fineness: 'string',
    'from-hz': 'string',
    'to-hz': 'string',
    bits: 'string',
  },
  files: { min: 3, max: 3 },
} as const

/** `prism duck`: one sound gives way across its spectrum to another. */
export const duck: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const [yieldingFile, keyFile, out] = call.files
  const bits = BITS[call.choice('bits', ['16', '24', '32f'], '24')]
  const { params: usual } = newTreatment('duck', 'duck', 'fit')
  const within = (name: 'depth' | 'fineness' | 'from-hz' | 'to-hz', from: number, to: number) => {
    const value = call.number(name)
    if (value !== undefined && !(value >= from && value <= to)) {
      throw new UsageError(`--${name} takes ${from} to ${to}`, SPEC.usage)
    }
    return value
  }
  const depth = call.number('depth')
  const params: DuckParams = {
    ...usual,
    law: call.choice('law', ['even', 'heard'], 'heard'),
    // A depth that is typed as a gain is one down all the same.
    depthDb: Math.abs(depth ?? usual.depthDb),
    fineness: within('fineness', 1, 5) ?? usual.fineness,
    fromHz: within('from-hz', 20, 20_000) ?? usual.fromHz,
    toHz: within('to-hz', 20, 20_000) ?? usual.toHz,
  }
  if (params.depthDb > 24) throw new UsageError('--depth takes 0 to 24', SPEC.usage)
  if (!Number.isInteger(params.fineness))
    throw new UsageError('--fineness takes 1 to 5', SPEC.usage)
  if (params.toHz <= params.fromHz) {
    throw new UsageError('--to-hz must lie above --from-hz', SPEC.usage)
  }
  const pair = await readPair(around, yieldingFile, keyFile)
  around.progress('following')
  const treated = await treatClip(
    pair.yielding,
    [newTreatment('duck', 'duck', 'fit', params)],
    pair.key,
  )
  const after = hearAfter(pair, treated)
  await writeClip(around, out, treated, { force: call.force, bits })
  around.progress('')
  const { meanDb, deepestDb } = taken(pair.yielding, treated, params)
  const { before } = pair
  if (call.json) {
    around.out(`${JSON.stringify({ out, law: params.law, meanDb, deepestDb, before, after })}\n`)
    return
  }
  around.out(`reduction ${figure(-meanDb)} dB average, ${figure(-deepestDb)} dB maximum\n`)
  around.out(heardWords(before, after))
}

/** Stretches and bands in which it is looked at how much was taken. */
const STRETCH_SECONDS = 0.4
/** Bands this far under the loudest moment are left out. */
const LEAST_DB = 60

/** What was taken, in dB: the mean over bands and time, and the deepest of them. */
function taken(before: Clip, after: Clip, { fromHz, toHz }: DuckParams) {
  const bands = erbBands(1).filter((b) => b.hz >= fromHz && b.hz <= toHz)
  const length = Math.max(8192, Math.round(STRETCH_SECONDS * before.sampleRateHz))
  const pairs: [number, number][] = []
  for (let at = 0; at + length <= before.frames; at += length) {
    const [a, b] = [before, after].map(({ channels, ...rest }) =>
      longTermPower(
        { ...rest, frames: length, channels: channels.map((c) => c.subarray(at, at + length)) },
        bands,
      ),
    )
    bands.forEach((_, i) => {
      pairs.push([a[i], b[i]])
    })
  }
  const loudest = pairs.reduce((most, [a]) => Math.max(most, a), 0)
  const changes = pairs
    .filter(([a]) => a > loudest * 10 ** (-LEAST_DB / 10))
    .map(([a, b]) => 10 * Math.log10(Math.max(1e-30, b) / a))
  return {
    meanDb: changes.reduce((a, v) => a + v, 0) / Math.max(1, changes.length),
    deepestDb: changes.reduce((a, v) => Math.min(a, v), 0),
  }
}
