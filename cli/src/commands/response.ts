import type { EqBand } from '@sober-prism/core/filters'
import { logFrequencies, readFilter } from '@sober-prism/core/filters'
import { parseCall } from '../arguments'
import { UsageError } from '../cli-error'
import type { Command } from '../run'
import { figure, formatTable } from '../table'
import { planEq, readableEq, readEqFile, requireBelowHalf } from './eq'

const SPEC = {
  usage:
    'response --eq EQ.json [--rate 48000] [--phase minimum|mixed|linear] [--taps N] [--at HZ,HZ,…] [--channel left|right|mid|side] [--json]',
  options: {
    eq: 'string',
    rate: 'string',
    phase: 'string',
    taps: 'string',
    at: 'string',
    channel: 'string',
  },
  files: { min: 0, max: 0 },
} as const

const DEFAULT_POINTS = 121
const CHANNELS = ['all', 'left', 'right', 'mid', 'side'] as const

/** `prism response`: magnitude, phase and group delay of an EQ file, with the latency taken out. */
export const response: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const eq = call.text('eq')
  if (eq === undefined) throw new UsageError('--eq is missing', SPEC.usage)
  const rateHz = call.number('rate') ?? 48000
  if (!(rateHz >= 8000 && rateHz <= 384000)) {
    throw new UsageError('--rate takes 8000 to 384000', SPEC.usage)
  }
  const hz = frequencies(call.text('at'), rateHz)
  const channel = call.choice('channel', CHANNELS, 'all')
  const read = await readEqFile(around.cwd, eq)
  requireBelowHalf(read, rateHz, eq)
  const bands = read.filter((b) => acts(b, channel))
  // Read on one path: every band that counts acts on it.
  const planned = planEq(
    call,
    bands.map((b) => ({ ...b, channel: 'stereo' as const })),
    rateHz,
  )
  const sorted = [...hz].sort((a, b) => a - b)
  const readings = readFilter(readableEq(planned, rateHz), sorted, rateHz)
  const points = hz.map((f) => {
    const { db, phaseDeg, groupDelayMs } = readings[sorted.indexOf(f)]
    return { hz: f, db, phaseDeg, groupDelayMs }
  })
  const { latency, preEchoDb } = planned.plan
  around.out(
    call.json
      ? `${JSON.stringify({ rateHz, latencyFrames: latency, preEchoDb, points })}\n`
      : `latency ${latency} samples${preEchoDb === null ? '' : `, pre-ringing ${figure(preEchoDb)} dB`}\n${formatTable(
          [
            ['Hz', 'dB', 'phase', 'delay ms'],
            ...points.map((p) => [
              figure(p.hz),
              figure(p.db, 2),
              figure(p.phaseDeg),
              figure(p.groupDelayMs, 3),
            ]),
          ],
        )}`,
  )
}

function acts(band: EqBand, channel: (typeof CHANNELS)[number]): boolean {
  return channel === 'all' || band.channel === 'stereo' || band.channel === channel
}

/** Nothing lower is read: no sound is there. */
const LOWEST_HZ = 0.1

function frequencies(text: string | undefined, rateHz: number): number[] {
  if (text === undefined) {
    return [...logFrequencies(DEFAULT_POINTS)].filter((f) => f < rateHz / 2)
  }
  return text.split(',').map((part) => {
    const hz = Number(part)
    if (part.trim() === '' || !(hz >= LOWEST_HZ && hz <= rateHz / 2)) {
      throw new UsageError(
        `--at takes frequencies from ${LOWEST_HZ} to ${rateHz / 2} Hz, not "${part}"`,
        SPEC.usage,
      )
    }
    return hz
  })
}
