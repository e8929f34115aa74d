import { type AudioSource, resample } from '@sober-prism/core/audio'
import { type EqBand, planPhase } from '@sober-prism/core/filters'
import { type Designer, designNow, streamRun } from '@sober-prism/core/mix'
import { DocumentError, parseChainFile } from '@sober-prism/core/session'
import {
  newChainBand,
  newTreatment,
  type Treatment,
  workingsOf,
} from '@sober-prism/core/treatments'
import { type ParsedCall, parseCall } from '../arguments'
import { type AudioFile, fromClip, openAudio } from '../audio-file'
import { chainRun } from '../chain-run'
import { FileError, UsageError } from '../cli-error'
import { readClip, readText } from '../files'
import type { Command } from '../run'
import { BITS, writeAudio } from '../write-audio'
import { phaseOf, readEqFile, requireBelowHalf, tapsOf } from './eq'

const SPEC = {
  usage:
    'apply IN.wav OUT.wav --eq EQ.json [--phase minimum|mixed|linear] [--taps N] | --chain CHAIN.json [--key KEY.wav] [--bits 16|24|32f] [--force] [--json]',
  options: {
    eq: 'string',
    chain: 'string',
    key: 'string',
    phase: 'string',
    taps: 'string',
    bits: 'string',
  },
  files: { min: 2, max: 2 },
} as const

/** `prism apply`: an EQ or chain file over a recording; the output is aligned with the input and as long. */
export const apply: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const bits = BITS[call.choice('bits', ['16', '24', '32f'], '24')]
  const [input, out] = call.files
  const { treatments, bands, design } = await readTreatments(call, around.cwd)
  const file = await openAudio(around.cwd, input)
  try {
    const { sampleRateHz, channels, frames } = file
    requireBelowHalf(bands, sampleRateHz, call.text('eq') ?? '')
    const key = await keyOf(call, around.cwd, file)
    const run = chainRun(file, treatments, { design: design(sampleRateHz), key })
    const latencyFrames = run.latency
    const target = {
      cwd: around.cwd,
      file: out,
      force: call.force,
      sampleRateHz,
      channels,
      frames,
      bits,
    }
    let done = 0
    await writeAudio(target, streamRun(run), (piece) => {
      around.progress(`applying ${Math.round((100 * done) / frames)} %`)
      done += piece[0].length
    })
    around.progress('')
    around.out(
      call.json
        ? `${JSON.stringify({ out, frames, latencyFrames })}\n`
        : `${out}: ${frames} samples, latency of ${latencyFrames} samples compensated\n`,
    )
  } finally {
    await file.close()
  }
}

interface ToApply {
  readonly treatments: readonly Treatment[]
  /** Those of an EQ file. */
  readonly bands: readonly EqBand[]
  design(sampleRateHz: number): Designer
}

/** What a call asks to be applied: a chain file, or an EQ file as one equaliser. */
async function readTreatments(call: ParsedCall, cwd: string): Promise<ToApply> {
  const [eq, chain] = [call.text('eq'), call.text('chain')]
  if ((eq === undefined) === (chain === undefined)) {
    throw new UsageError('one of --eq and --chain is needed', SPEC.usage)
  }
  if (call.text('key') !== undefined && chain === undefined) {
    throw new UsageError('--key goes with --chain', SPEC.usage)
  }
  if (chain !== undefined) {
    return { treatments: await readChain(cwd, chain), bands: [], design: designNow }
  }
  const bands = await readEqFile(cwd, eq ?? '')
  const phase = phaseOf(call)
  const taps = tapsOf(call)
  const chainBands = bands.map((band, i) => newChainBand(`${i}`, band))
  const treatment = newTreatment('equaliser', 'eq', 'shape', { phase, bands: chainBands })
  if (taps === undefined) return { treatments: [treatment], bands, design: designNow }
  // Kernels of a length that was set by hand.
  const design =
    (sampleRateHz: number): Designer =>
    (name, params) => {
      const made = workingsOf(name).design({ ...treatment.params, phase: 'minimum' }, sampleRateHz)
      if (phase === 'minimum') return made
      const fir = planPhase(chainBands, phase, sampleRateHz, taps)
      return { ...(made as object), fir: fir.firs.length > 0 ? fir : null, params }
    }
  return { treatments: [treatment], bands, design }
}

async function readChain(cwd: string, file: string): Promise<Treatment[]> {
  try {
    return parseChainFile(await readText(cwd, file))
  } catch (error) {
    if (error instanceof DocumentError) throw new FileError(file, error.message)
    throw error
  }
}

/** What treatments with a key listen to, at the file's rate; null for nothing. */
async function keyOf(
  call: ParsedCall,
  cwd: string,
  { sampleRateHz }: AudioFile,
): Promise<AudioSource | null> {
  const name = call.text('key')
  if (name === undefined) return null
  return fromClip(resample(await readClip(cwd, name), sampleRateHz)).source
}
