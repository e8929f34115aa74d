import { WavWriter } from '@sober-prism/core/audio'
import {
  type DrawnCurve,
  type FirWindow,
  LONGEST_FIR,
  readDrawn,
  SHORTEST_FIR,
  tapsWithin,
} from '@sober-prism/core/filters'
import { DocumentError, parseCurveCsv } from '@sober-prism/core/session'
import { type ParsedCall, parseCall } from '../arguments'
import { FileError, UsageError } from '../cli-error'
import { readText } from '../files'
import type { Command } from '../run'
import { figure } from '../table'
import { WholeFile } from '../whole-file'

const SPEC = {
  usage:
    'curve POINTS.csv --taps N|auto [--window hann|blackman-harris|flat-top|kaiser:DB] [--phase linear|minimum] [--smooth] [--linear-hz] [--within DB] [--rate 48000] --out IR.wav [--force] [--json]',
  options: {
    taps: 'string',
    window: 'string',
    phase: 'string',
    smooth: 'boolean',
    'linear-hz': 'boolean',
    within: 'string',
    rate: 'string',
    out: 'string',
  },
  files: { min: 1, max: 1 },
} as const

const PLAIN_WINDOWS = ['hann', 'blackman-harris', 'flat-top'] as const
const [LEAST_KAISER_DB, MOST_KAISER_DB] = [20, 160]

/** `prism curve`: a drawn curve as a filter of a given length, written as its impulse response. */
export const curve: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const [file] = call.files
  const out = call.text('out')
  if (out === undefined) throw new UsageError('--out is missing', SPEC.usage)
  const rateHz = call.number('rate') ?? 48000
  if (!(rateHz >= 8000 && rateHz <= 384000)) {
    throw new UsageError('--rate takes 8000 to 384000', SPEC.usage)
  }
  const window = windowOf(call)
  const phase = call.choice('phase', ['linear', 'minimum'], 'linear')
  const drawn: DrawnCurve = {
    points: await readPoints(around.cwd, file, rateHz),
    joining: call.flag('smooth') ? 'smooth' : 'straight',
    axis: call.flag('linear-hz') ? 'linear' : 'log',
  }
  const taps = tapsOf(call, (toleranceDb) =>
    tapsWithin(drawn, { window, phase }, rateHz, toleranceDb),
  )
  const { kernel, worstDb, worstHz, preEchoDb } = readDrawn(drawn, { taps, window, phase }, rateHz)
  // As long as was asked for: of an even length the last tap is nothing.
  const response = new Float32Array(taps)
  response.set(kernel.taps)
  const target = await WholeFile.create(around.cwd, out, call.force)
  try {
    const writer = new WavWriter(rateHz, 1, taps, '32f')
    await target.write(writer.header())
    await target.write(writer.encode([response], taps))
    await target.write(writer.end())
  } catch (error) {
    await target.discard()
    throw error
  }
  await target.finish()
  const result = {
    out,
    taps,
    latencyFrames: kernel.latency,
    worstDeviationDb: worstDb,
    worstHz,
    preEchoDb,
  }
  around.out(
    call.json
      ? `${JSON.stringify(result)}\n`
      : `${out}: ${taps} taps, latency ${kernel.latency} samples, max deviation ${figure(worstDb, 2)} dB at ${figure(worstHz)} Hz${preEchoDb === null ? '' : `, pre-ringing ${figure(preEchoDb)} dB`}\n`,
  )
}

async function readPoints(
  cwd: string,
  file: string,
  rateHz: number,
): Promise<DrawnCurve['points']> {
  const text = await readText(cwd, file)
  try {
    const points = parseCurveCsv(text)
    const beyond = points.find((p) => p.hz > rateHz / 2)
    if (!beyond) return points
    throw new FileError(
      file,
      `The point at ${beyond.hz} Hz lies beyond half the sample rate of ${rateHz} Hz.`,
    )
  } catch (error) {
    if (error instanceof DocumentError) throw new FileError(file, error.message)
    throw error
  }
}

function tapsOf(call: ParsedCall, within: (toleranceDb: number) => number): number {
  const text = call.text('taps')
  if (text === undefined) throw new UsageError('--taps is missing', SPEC.usage)
  const toleranceDb = call.number('within') ?? 1
  if (!(toleranceDb > 0)) throw new UsageError('--within takes a number over 0', SPEC.usage)
  if (text === 'auto') return within(toleranceDb)
  const taps = call.number('taps') ?? Number.NaN
  if (!Number.isInteger(taps) || taps < SHORTEST_FIR || taps > LONGEST_FIR) {
    throw new UsageError(`--taps takes ${SHORTEST_FIR} to ${LONGEST_FIR}, or auto`, SPEC.usage)
  }
  return taps
}

function windowOf(call: ParsedCall): FirWindow {
  const text = call.text('window') ?? 'blackman-harris'
  const plain = PLAIN_WINDOWS.find((w) => w === text)
  if (plain) return { kind: plain }
  const [name, db, ...more] = text.split(':')
  const attenuationDb = Number(db)
  const isKaiser = name === 'kaiser' && more.length === 0 && db !== undefined && db.trim() !== ''
  if (isKaiser && attenuationDb >= LEAST_KAISER_DB && attenuationDb <= MOST_KAISER_DB) {
    return { kind: 'kaiser', attenuationDb }
  }
  throw new UsageError(
    `--window takes ${PLAIN_WINDOWS.join(', ')} or kaiser:DB with ${LEAST_KAISER_DB} to ${MOST_KAISER_DB}`,
    SPEC.usage,
  )
}
