import {
  type ChainText,
  chainCommand,
  chainCsv,
  chainImpulse,
  chainList,
} from '@sober-prism/core/chain-export'
import {
  type Chain,
  chainOf,
  chainWith,
  DocumentError,
  parseChainFile,
  writeChainFile,
} from '@sober-prism/core/session'
import { MIX } from '@sober-prism/core/treatments'
import { parseCall } from '../arguments'
import { FileError, UsageError } from '../cli-error'
import { readText } from '../files'
import type { Command, Surroundings } from '../run'
import { openSession } from '../session-files'
import { figure } from '../table'
import { WholeFile } from '../whole-file'
import { writeClip } from './keyed'

const FORMS = ['csv', 'ir', 'json', 'ffmpeg', 'sox', 'text'] as const
const SPEC = {
  usage:
    'export SESSION[#N]|CHAIN.json --as csv|ir|json|ffmpeg|sox|text [--node NAME] [--rate HZ] [--out FILE] [--force] [--json]',
  options: { as: 'string', node: 'string', rate: 'string', out: 'string' },
  files: { min: 1, max: 1 },
} as const

/** `prism export`: a chain in a form that others can use. */
export const exportOf: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const [file] = call.files
  if (call.text('as') === undefined) throw new UsageError('--as is missing', SPEC.usage)
  const form = call.choice('as', FORMS, 'json')
  const { chain, sampleRateHz } = await readChain(around.cwd, file, call.text('node'))
  const rateHz = call.number('rate') ?? sampleRateHz
  if (!(rateHz >= 8000 && rateHz <= 384_000)) {
    throw new UsageError('--rate takes 8000 to 384000', SPEC.usage)
  }
  const out = call.text('out')
  if (form === 'ir') {
    if (out === undefined) throw new UsageError('--as ir needs --out FILE', SPEC.usage)
    const { clip, latencyFrames, nullDb, notSaid } = await chainImpulse(chain, rateHz)
    await writeClip(around, out, clip, { force: call.force, bits: '32f' })
    const { frames } = clip
    const told = { out, text: null, worstDeviationDb: null, notSaid, frames, latencyFrames, nullDb }
    return tell(told, call.json, around)
  }
  const made = textOf(form, chain, rateHz)
  if (out !== undefined) {
    const whole = await WholeFile.create(around.cwd, out, call.force)
    await whole.write(new TextEncoder().encode(made.text))
    await whole.finish()
  }
  return tell({ out: out ?? null, ...made }, call.json, around)
}

function textOf(
  form: Exclude<(typeof FORMS)[number], 'ir'>,
  chain: Chain,
  rateHz: number,
): ChainText {
  switch (form) {
    case 'csv':
      return chainCsv(chain, rateHz)
    case 'text':
      return chainList(chain)
    case 'json':
      return {
        text: `${writeChainFile(chain.treatments)}\n`,
        worstDeviationDb: 0,
        notSaid: saidElsewhere(chain),
      }
    default:
      return chainCommand(chain, form, rateHz)
  }
}

/** A chain file holds treatments alone. */
function saidElsewhere({ output: { gainDb, polarity } }: Chain): string[] {
  return [
    ...(gainDb === 0 ? [] : [`the output gain of ${gainDb.toFixed(1)} dB`]),
    ...(polarity === 'inverted' ? ['the inverted polarity of the output'] : []),
  ]
}

interface Told extends Omit<ChainText, 'text'> {
  readonly out: string | null
  readonly text: string | null
  readonly frames?: number
  readonly latencyFrames?: number
  readonly nullDb?: number
}

function tell(told: Told, isJson: boolean, around: Surroundings): void {
  if (isJson) {
    around.out(`${JSON.stringify(told)}\n`)
    return
  }
  const { out, text, worstDeviationDb, notSaid, frames, latencyFrames, nullDb } = told
  if (out === null) around.out(`${text}`)
  else around.out(`${out} written\n`)
  if (frames !== undefined) {
    around.out(
      `${frames} samples, ${latencyFrames} before the impulse; null against the chain ${figure(nullDb ?? null)} dB\n`,
    )
  }
  // What is said besides goes beside the text, so that this can be piped.
  if (worstDeviationDb !== null && worstDeviationDb > 0) {
    around.error(`at most ${figure(worstDeviationDb, 4)} dB from the chain, 20 Hz to 18 kHz\n`)
  }
  for (const sentence of notSaid) around.error(`not said: ${sentence}\n`)
}

/** The chain of a session's node, or of a chain file. @throws FileError */
async function readChain(
  cwd: string,
  file: string,
  node: string | undefined,
): Promise<{ readonly chain: Chain; readonly sampleRateHz: number }> {
  if (!/\.prism(#\d)?$/i.test(file)) {
    if (node !== undefined) throw new UsageError('--node applies to sessions', SPEC.usage)
    try {
      const treatments = parseChainFile(await readText(cwd, file))
      return { chain: chainWith(treatments), sampleRateHz: 48_000 }
    } catch (error) {
      if (error instanceof DocumentError) throw new FileError(file, error.message)
      throw error
    }
  }
  const opened = await openSession(cwd, file)
  try {
    const { session } = opened
    const named = [...session.tracks, ...session.groups].filter((n) => n.name === node)
    if (named.length > 1) throw new FileError(file, `has several nodes named ${node}`)
    const id = node === undefined || node.toLowerCase() === 'mix' ? MIX : named[0]?.id
    const chain = id === undefined ? null : chainOf(session, id)
    if (!chain) throw new FileError(file, `has no track or group named ${node}`)
    return { chain, sampleRateHz: session.sampleRateHz }
  } finally {
    await opened.close()
  }
}
