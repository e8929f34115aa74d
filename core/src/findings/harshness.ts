import type { EqBand } from '../filters'
import { FILTER_COUNT, FILTER_HZ } from '../hearing'
import type { SourceReading } from './source-reading'

/** Moments in which the range from 2 to 10 kHz jumps out of a voice or an instrument. */
export interface Harshness {
  readonly hz: number
  readonly fromHz: number
  readonly toHz: number
  /** How far those moments stand over the usual balance of the track, in dB. */
  readonly excessDb: number
  readonly timeShare: number
  readonly cut: EqBand
}

const FROM_HZ = 2000
const TO_HZ = 10000
const BODY_FROM_HZ = 100
/** Moments count that stand this far over the median balance ... */
const JUMP_DB = 12
/** ... with about as much above 2 kHz as below, ... */
const LEAST_BALANCE_DB = -2
/** ... while the body is softer than usual, as in a sibilant; an attack is loud in all ranges, ... */
const BODY_DROP_DB = -4
/** ... not much softer than the track's loudest moments, ... */
const LOUD_DB = -18
/** ... for longer than an attack: frames in a row. */
const LONGEST_ATTACK = 2
/** Shorter than this share of the sounding time it is colour, longer it is the sound itself. */
const LEAST_SHARE = 0.015
const MOST_SHARE = 0.3
/** Only where there is a pitch is there a rest to be jumped out of. */
const LEAST_PITCHED = 0.3

/** Short-time excess between 2 and 10 kHz against the track's own rest: sibilance, scrape, bite. */
export function findHarshness({
  bands,
  lowest,
}: Pick<SourceReading, 'bands' | 'lowest'>): Harshness | null {
  if (lowest.pitchedShare < LEAST_PITCHED) return null
  const frames: { balance: number; high: number; body: number; frame: number }[] = []
  let loudest = 0
  for (let frame = 0; frame < bands.frames; frame++) {
    let body = 0
    let high = 0
    for (let b = 0; b < FILTER_COUNT; b++) {
      const hz = FILTER_HZ[b]
      const power = bands.mid[frame * FILTER_COUNT + b] + bands.side[frame * FILTER_COUNT + b]
      if (hz >= FROM_HZ && hz < TO_HZ) high += power
      else if (hz >= BODY_FROM_HZ && hz < FROM_HZ) body += power
    }
    loudest = Math.max(loudest, body + high)
    frames.push({ balance: 10 * Math.log10((high + 1e-14) / (body + 1e-14)), high, body, frame })
  }
  const least = loudest * 1e-3
  const sounding = frames.filter((f) => f.high > least || f.balance < 0)
  if (sounding.length < 20) return null
  const median = sounding.map((f) => f.balance).sort((a, b) => a - b)[sounding.length >> 1]
  const leastBalance = Math.max(LEAST_BALANCE_DB, median + JUMP_DB)
  const leastHigh = loudest * 10 ** (LOUD_DB / 10)
  const body = sounding.map((f) => f.body).sort((a, b) => a - b)[sounding.length >> 1]
  const mostBody = body * 10 ** (BODY_DROP_DB / 10)
  const jumps = longRuns(
    frames.filter((f) => f.balance > leastBalance && f.high > leastHigh && f.body < mostBody),
  )
  const timeShare = jumps.length / sounding.length
  if (timeShare < LEAST_SHARE || timeShare > MOST_SHARE) return null
  const mean = new Float64Array(FILTER_COUNT)
  for (const { frame } of jumps) {
    for (let b = 0; b < FILTER_COUNT; b++) mean[b] += bands.mid[frame * FILTER_COUNT + b]
  }
  const { hz, fromHz, toHz } = centre(mean)
  const excessDb = jumps.reduce((sum, f) => sum + f.balance - median, 0) / jumps.length
  return {
    hz,
    fromHz,
    toHz,
    excessDb,
    timeShare,
    cut: {
      type: 'bell',
      hz: Math.round(hz / 50) * 50,
      db: -3,
      q: Math.round(10 * Math.max(0.7, Math.min(3, hz / (toHz - fromHz)))) / 10,
      slopeDbPerOct: 12,
      channel: 'stereo',
    },
  }
}

/** Frames that stand in a row of more than an attack's length. */
function longRuns<T extends { frame: number }>(frames: readonly T[]): T[] {
  const out: T[] = []
  let run: T[] = []
  for (const f of [...frames, null]) {
    if (f && run.length > 0 && f.frame === run[run.length - 1].frame + 1) {
      run.push(f)
      continue
    }
    if (run.length > LONGEST_ATTACK) out.push(...run)
    run = f ? [f] : []
  }
  return out
}

/** Where the power between 2 and 10 kHz lies: its middle, and the span of its middle two thirds. */
function centre(mean: Float64Array): { hz: number; fromHz: number; toHz: number } {
  let sum = 0
  for (let b = 0; b < FILTER_COUNT; b++) if (inRange(b)) sum += mean[b]
  const at = (share: number) => {
    let left = share * sum
    for (let b = 0; b < FILTER_COUNT; b++) {
      if (!inRange(b)) continue
      left -= mean[b]
      if (left <= 0) return FILTER_HZ[b]
    }
    return TO_HZ
  }
  return { hz: at(0.5), fromHz: at(1 / 6), toHz: Math.max(at(5 / 6), at(1 / 6) * 1.2) }
}

function inRange(b: number): boolean {
  return FILTER_HZ[b] >= FROM_HZ && FILTER_HZ[b] < TO_HZ
}
