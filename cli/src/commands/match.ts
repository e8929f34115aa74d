import {
  ALIKE_DB,
  type CorrectionSettings,
  correctionOf,
  MOST_MATCH_BANDS,
  matchByBands,
  type NotMatched,
  notMatched,
  type Profile,
  pairOf,
  TWELFTHS,
  USUAL_CORRECTION,
  zeroOf,
} from '@sober-prism/core/match'
import { writeChainFile, writeEqFile } from '@sober-prism/core/session'
import {
  MATCH_TAPS,
  newChainBand,
  newTreatment,
  respondChain,
  type Treatment,
} from '@sober-prism/core/treatments'
import { type ParsedCall, parseCall } from '../arguments'
import { UsageError } from '../cli-error'
import { applyAsLoud } from '../kept-loudness'
import { readTarget, titleOf } from '../match-input'
import type { Command } from '../run'
import { figure } from '../table'
import { writeText } from '../whole-file'
import { BITS } from '../write-audio'
import { phaseOf } from './eq'

const SPEC = {
  usage:
    'match FROM TO [--bands N | --taps N [--phase minimum|mixed|linear]] [--smooth OCTAVES|erb] [--from-hz HZ] [--to-hz HZ] [--most-boost DB] [--most-cut DB] [--amount PERCENT] [--out EQ.json] [--apply OUT.wav] [--bits 16|24|32f] [--force] [--json]',
  options: {
    bands: 'string',
    taps: 'string',
    phase: 'string',
    smooth: 'string',
    'from-hz': 'string',
    'to-hz': 'string',
    'most-boost': 'string',
    'most-cut': 'string',
    amount: 'string',
    out: 'string',
    apply: 'string',
    bits: 'string',
  },
  files: { min: 2, max: 2 },
} as const

/** What is given, in either form. */
interface Given {
  readonly treatment: Treatment
  readonly wantedDb: readonly number[]
  readonly givenDb: readonly number[]
  readonly rmsErrorDb: number
  readonly stays: readonly NotMatched[]
  /** As an EQ file; null where it is one long filter. */
  readonly eq: string | null
}

/** `prism match`: makes one sound like another by a few bands or one long filter, and says what stays. */
export const match: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const [fromFile, toFile] = call.files
  const settings = settingsOf(call)
  const bits = BITS[call.choice('bits', ['16', '24', '32f'], '24')]
  const [bands, taps] = [bandsOf(call), tapsOf(call)]
  if (bands !== undefined && taps !== undefined) {
    throw new UsageError('--bands or --taps, not both', SPEC.usage)
  }
  const phase = phaseOf(call)
  if (call.text('phase') !== undefined && taps === undefined) {
    throw new UsageError('--phase goes with --taps', SPEC.usage)
  }
  const from = await readTarget(around, fromFile)
  const to = await readTarget(around, toFile)
  const given =
    taps === undefined
      ? byBands(from, to, settings, bands)
      : byFilter(from, to, { ...settings, taps, phase, target: titleOf(toFile) })
  const out = call.text('out')
  if (out !== undefined) {
    await writeText(around.cwd, out, given.eq ?? writeChainFile([given.treatment]), call.force)
  }
  const applied = call.text('apply')
  const options = { force: call.force, bits }
  const trimDb =
    applied === undefined
      ? null
      : await applyAsLoud(around, fromFile, applied, [given.treatment], options)
  around.progress('')
  const { wantedDb, givenDb, rmsErrorDb, stays } = given
  if (call.json) {
    const points = TWELFTHS.map(({ hz }, i) => ({ hz, wantedDb: wantedDb[i], givenDb: givenDb[i] }))
    const eq = given.eq === null ? null : JSON.parse(given.eq)
    const chain = given.eq === null ? JSON.parse(writeChainFile([given.treatment])) : undefined
    around.out(`${JSON.stringify({ eq, chain, points, rmsErrorDb, notMatched: stays, trimDb })}\n`)
    return
  }
  around.out(inWords(given))
}

function byBands(
  from: Profile,
  to: Profile,
  settings: CorrectionSettings,
  count: number | undefined,
): Given {
  const {
    bands,
    wantedDb,
    givenDb,
    rmsErrorDb,
    notMatched: stays,
  } = matchByBands(from, to, settings, count)
  const chainBands = bands.map((band, i) => newChainBand(`${i}`, band))
  const treatment = newTreatment('equaliser', 'match', 'shape', {
    phase: 'minimum',
    bands: chainBands,
  })
  return { treatment, wantedDb, givenDb, rmsErrorDb, stays, eq: writeEqFile(bands) }
}

/** Rate at which a long filter's response is read. */
const READ_RATE_HZ = 48_000

function byFilter(
  from: Profile,
  to: Profile,
  options: CorrectionSettings & {
    readonly taps: (typeof MATCH_TAPS)[number]
    readonly phase: 'minimum' | 'mixed' | 'linear'
    readonly target: string
  },
): Given {
  const { haveDb, wantDb, weight } = pairOf(from, to)
  const pair = { haveDb: [...haveDb], wantDb: [...wantDb], weight: [...weight] }
  const zeroDb = zeroOf(pair, options)
  const wantedDb = correctionOf(pair, options, zeroDb)
  const treatment = newTreatment('match', 'match', 'shape', {
    ...options,
    ...pair,
    zeroDb,
    keepLoudness: false,
  })
  const response = respondChain([treatment], READ_RATE_HZ, 'mid')
  const givenDb = [...response.db(TWELFTHS.map(({ hz }) => hz))]
  const total = weight.reduce((a, v) => a + v, 0)
  const square = weight.reduce((sum, w, i) => sum + w * (wantedDb[i] - givenDb[i]) ** 2, 0)
  const rmsErrorDb = total > 0 ? Math.sqrt(square / total) : 0
  const stays = notMatched(from, to, givenDb)
  return { treatment, wantedDb, givenDb, rmsErrorDb, stays, eq: null }
}

function settingsOf(call: ParsedCall): CorrectionSettings {
  const within = (
    name: 'from-hz' | 'to-hz' | 'most-boost' | 'most-cut' | 'amount',
    [low, high]: readonly [number, number],
    usual: number,
  ) => {
    const value = call.number(name) ?? usual
    if (value >= low && value <= high) return value
    throw new UsageError(`--${name} takes ${low} to ${high}`, SPEC.usage)
  }
  const { fromHz, toHz, mostBoostDb, mostCutDb, amount } = USUAL_CORRECTION
  const settings = {
    smoothing: smoothingOf(call),
    fromHz: within('from-hz', [20, 20_000], fromHz),
    toHz: within('to-hz', [20, 20_000], toHz),
    mostBoostDb: within('most-boost', [0, 24], mostBoostDb),
    mostCutDb: within('most-cut', [0, 24], mostCutDb),
    amount: within('amount', [0, 150], 100 * amount) / 100,
  }
  if (settings.toHz > settings.fromHz) return settings
  throw new UsageError('--to-hz must lie above --from-hz', SPEC.usage)
}

function smoothingOf(call: ParsedCall): number | 'erb' {
  const text = call.text('smooth')
  if (text === undefined) return USUAL_CORRECTION.smoothing
  if (text === 'erb') return text
  // A fraction as one writes it: 1/3.
  const parts = text.split('/').map(Number)
  const octaves = parts.length === 2 ? parts[0] / parts[1] : parts[0]
  if (parts.length <= 2 && octaves >= 1 / 12 - 1e-6 && octaves <= 2) return octaves
  throw new UsageError('--smooth takes 1/12 to 2 octaves, or erb', SPEC.usage)
}

function bandsOf(call: ParsedCall): number | undefined {
  const bands = call.number('bands')
  if (bands === undefined) return undefined
  if (Number.isInteger(bands) && bands >= 1 && bands <= MOST_MATCH_BANDS) return bands
  throw new UsageError(`--bands takes 1 to ${MOST_MATCH_BANDS}`, SPEC.usage)
}

function tapsOf(call: ParsedCall): (typeof MATCH_TAPS)[number] | undefined {
  const taps = call.number('taps')
  if (taps === undefined) return undefined
  const found = MATCH_TAPS.find((t) => t === taps)
  if (found) return found
  throw new UsageError(`--taps takes ${MATCH_TAPS.join(', ')}`, SPEC.usage)
}

const WORDS: Readonly<Record<NotMatched['what'], string>> = {
  room: 'room decay',
  noise: 'noise in pauses, relative to the whole',
  dynamics: 'loudness range',
  width: 'side relative to mid',
}

function inWords({ treatment, rmsErrorDb, stays, eq }: Given): string {
  const bands =
    eq === null
      ? []
      : (JSON.parse(eq) as { bands: { type: string; hz: number; db: number; q: number }[] }).bands
  const lines = bands.map(
    ({ type, hz, db, q }) => `${type} ${figure(hz, 0)} Hz ${figure(db)} dB Q ${figure(q, 2)}`,
  )
  if (eq === null) lines.push(`one filter of ${(treatment.params as { taps: number }).taps} taps`)
  if (eq !== null && bands.length === 0) lines.push('already alike: nothing to do')
  lines.push(
    `RMS error ${figure(rmsErrorDb, 2)} dB${rmsErrorDb > ALIKE_DB ? ', more than 1 dB' : ''}`,
  )
  for (const { what, from, to, unit, atMost } of stays) {
    const [here, there] = [atMost === 'from', atMost === 'to'].map((is) => (is ? 'at most ' : ''))
    lines.push(
      `EQ cannot match: ${WORDS[what]} ${here}${from} ${unit}, there ${there}${to} ${unit}`,
    )
  }
  return `${lines.join('\n')}\n`
}
