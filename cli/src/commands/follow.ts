import { proposeFollow, usualLevel } from '@sober-prism/core/findings'
import { pairMasking } from '@sober-prism/core/hearing'
import { treatClip } from '@sober-prism/core/mix'
import { DocumentError, parseChainFile } from '@sober-prism/core/session'
import {
  type FollowBand,
  MOST_FOLLOW_BANDS,
  newTreatment,
  type Treatment,
} from '@sober-prism/core/treatments'
import { type ParsedCall, parseCall } from '../arguments'
import { FileError, UsageError } from '../cli-error'
import { readText } from '../files'
import type { Command } from '../run'
import { figure } from '../table'
import { BITS } from '../write-audio'
import { hearAfter, heardWords, type KeyedPair, readPair, writeClip } from './keyed'

const SPEC = {
  usage:
    'follow YIELDING KEY OUT.wav [--bands N|auto|CHAIN.json] [--range DB] [--bits 16|24|32f] [--force] [--json]',
  options: { bands: 'string', range: 'string', bits: 'string' },
  files: { min: 3, max: 3 },
} as const

/** Without a number of bands or a range, these are tried, smallest first. */
const RANGES_DB = [-2, -3, -4.5, -6]
const USUAL_BANDS = 4
/** A larger range must win this much more of the key, in shares, for each decibel. */
const WORTH_SHARE = 0.01

/** `prism follow`: bands of one sound give way while another sounds in them. */
export const follow: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const [yieldingFile, keyFile, out] = call.files
  const bits = BITS[call.choice('bits', ['16', '24', '32f'], '24')]
  const range = call.number('range')
  if (range !== undefined && !(range >= -24 && range <= 24)) {
    throw new UsageError('--range takes -24 to 24', SPEC.usage)
  }
  const asked = call.text('bands') ?? 'auto'
  const given = /^(auto|\d+)$/.test(asked) ? null : await readBands(call, around.cwd, asked)
  const count = asked === 'auto' ? USUAL_BANDS : Number(asked)
  if (!given && !(count >= 1 && count <= MOST_FOLLOW_BANDS)) {
    throw new UsageError(`--bands takes 1 to ${MOST_FOLLOW_BANDS}, auto or a file`, SPEC.usage)
  }
  const pair = await readPair(around, yieldingFile, keyFile)
  // A range that is typed without a sign is one down.
  const ranges = range === undefined ? RANGES_DB : [range > 0 ? -range : range]
  const { lost } = pairMasking(pair.sums, 0, 1)
  let best = null as Awaited<ReturnType<typeof tryBands>> | null
  for (const rangeDb of given ? [0] : ranges) {
    around.progress(given ? 'following' : `trying ${rangeDb} dB`)
    const bands = given ?? inPlace(proposeFollow(lost, { bands: count, rangeDb }), pair)
    const tried = await tryBands(pair, bands)
    const more = best ? tried.after.keyHeard - best.after.keyHeard : 1
    const step = best ? Math.abs(rangeDb) - Math.abs(best.rangeDb) : 1
    if (best && more < WORTH_SHARE * step) break
    best = { ...tried, rangeDb }
  }
  if (!best) throw new Error('Nothing was tested.')
  const { bands, treated, after } = best
  await writeClip(around, out, treated, { force: call.force, bits })
  around.progress('')
  const { before } = pair
  if (call.json) {
    const list = bands.map(({ hz, q, rangeDb, threshold, attackMs, releaseMs }) => ({
      hz,
      q,
      rangeDb,
      thresholdDb: threshold.db,
      thresholdAgainst: threshold.against,
      attackMs,
      releaseMs,
    }))
    around.out(`${JSON.stringify({ out, bands: list, before, after })}\n`)
    return
  }
  if (bands.length === 0) around.out('The key is not masked here; no band was added.\n')
  for (const b of bands) {
    around.out(`${figure(b.hz)} Hz, Q ${figure(b.q, 2)}: up to ${figure(b.rangeDb)} dB\n`)
  }
  around.out(heardWords(before, after))
}

async function tryBands(pair: KeyedPair, bands: readonly FollowBand[]) {
  const treated = await treatClip(pair.yielding, [treatmentOf(bands)], pair.key)
  return { bands, treated, after: hearAfter(pair, treated), rangeDb: 0 }
}

function treatmentOf(bands: readonly FollowBand[]): Treatment {
  const { params } = newTreatment('follow', 'follow', 'fit')
  return newTreatment('follow', 'follow', 'fit', { ...params, bands: [...bands] })
}

/** Bands with thresholds in place: a file has one key, whose usual level is known beforehand. */
function inPlace(bands: readonly FollowBand[], { key }: KeyedPair): FollowBand[] {
  return bands.map((band) => ({
    ...band,
    threshold: {
      against: 'absolute',
      db: Math.max(
        -90,
        Math.round(10 * (usualLevel(key, band.hz, band.q) + band.threshold.db)) / 10,
      ),
    },
  }))
}

async function readBands(call: ParsedCall, cwd: string, file: string): Promise<FollowBand[]> {
  try {
    const found = parseChainFile(await readText(cwd, file)).find((t) => t.kind === 'follow')
    if (found?.kind === 'follow') return found.params.bands
  } catch (error) {
    if (error instanceof DocumentError) throw new FileError(file, error.message)
    throw error
  }
  throw new UsageError(`${file} holds no treatment that follows (of ${call.files[0]})`, SPEC.usage)
}
