import type { EqBand } from '../../filters'
import { type Profile, trustOf } from '../../match'
import { LEVEL_BANDS } from '../level-bands'

/** A broad region of the mix that stands out of the target. */
export interface BalanceRegion {
  readonly fromHz: number
  readonly toHz: number
  readonly hz: number
  /** Mean deviation over the region, in dB; positive for too strong. */
  readonly deviationDb: number
  readonly toleranceDb: number
  readonly band: EqBand
}

/** What the mix is held against. */
export interface BalanceTarget {
  readonly kind: 'slope' | 'references'
  /** Target level of each sixth-octave band in dB, up to a constant. */
  readonly levels: Float64Array
  /** Deviation that counts as alike, per band, in dB. */
  readonly tolerance: Float64Array
}

/** Where a mix stands against its target: the curve and the regions that stand out. */
export interface Balance {
  /** Smoothed deviation of each sixth-octave band in dB, the constant taken out. */
  readonly deviation: Float64Array
  readonly target: BalanceTarget
  readonly regions: readonly BalanceRegion[]
}

/** Common practice: finished dense music falls about 4.5 dB per octave in density. */
export const DEFAULT_SLOPE_DB = -4.5
const SLOPE_TOLERANCE_DB = 3.5
const LEAST_TOLERANCE_DB = 2.5
/** Balance is judged between these; below and above, the taste of rooms and ears begins. */
const FROM_HZ = 40
const TO_HZ = 13000
/** The constant is fitted where the ear is most sure. */
const FIT_FROM_HZ = 100
const FIT_TO_HZ = 8000
/** Smoothing, in sixths of an octave to either side: about one octave in all. */
const SMOOTH = 4
const NARROWEST = 3
const MOST_REGIONS = 5
/** On a whole mix a first guess is halved, and never more than this. */
const HALVED = 0.5
const MOST_DB = 3

/** A straight slope in density; fractional octaves widen with frequency, by 3 dB per octave. */
export function slopeTarget(dbPerOctave = DEFAULT_SLOPE_DB): BalanceTarget {
  return {
    kind: 'slope',
    levels: Float64Array.from(LEVEL_BANDS, (b) => (dbPerOctave + 3.0103) * Math.log2(b.hz / 1000)),
    tolerance: new Float64Array(LEVEL_BANDS.length).fill(SLOPE_TOLERANCE_DB),
  }
}

/**
 * How much further one more recording of a kind stands from the mean of some than they do themselves: the variance of a
 * difference from their mean is (n + 1)/n for a new one, (n - 1)/n for each of them.
 */
function oneMore(count: number): number {
  return Math.sqrt((count + 1) / (count - 1))
}

/** The mean of references, each at the same loudness, with their spread as tolerance for one more. */
export function referenceTarget(references: readonly Float64Array[]): BalanceTarget {
  const smoothed = references.map((levels) => centred(smooth(levels)))
  const mean = (i: number) => smoothed.reduce((sum, l) => sum + l[i], 0) / smoothed.length
  const levels = Float64Array.from(LEVEL_BANDS, (_, i) => mean(i))
  // Of one reference nothing is known of how far others are from it.
  const factor = references.length > 1 ? oneMore(references.length) : 1
  const spread = (m: number, i: number) =>
    factor * smoothed.reduce((most, l) => Math.max(most, Math.abs(l[i] - m)), 0)
  return {
    kind: 'references',
    levels,
    tolerance: levels.map((m, i) => Math.max(LEAST_TOLERANCE_DB, spread(m, i))),
  }
}

/** Deviations of recordings behind one profile count as alike up to so many sigmas. */
const ALIKE_SIGMAS = 1.5

/** Levels of a profile in sixths of an octave, each of which is two of its twelfths. */
export function profileLevels({ twelfths }: Profile): Float64Array {
  const power = (i: number) => 10 ** (twelfths.meanDb[i] / 10)
  return Float64Array.from(LEVEL_BANDS, (_, i) => 10 * Math.log10(power(2 * i) + power(2 * i + 1)))
}

/** Which sixths of an octave a profile has more than noise in, and its target too. */
export function heldBands(own: Profile, target: Profile | null): (band: number) => boolean {
  const trusted = [own, ...(target ? [target] : [])].map(trustOf)
  return (band) => trusted.every((t) => Math.max(t[2 * band], t[2 * band + 1]) >= 0.5)
}

/** A profile as a target; where it stands for several recordings, their spread is the tolerance. */
export function profileTarget(profile: Profile): BalanceTarget {
  const { recordings, twelfths } = profile
  const spread = (i: number) => (twelfths.spreadDb[2 * i] + twelfths.spreadDb[2 * i + 1]) / 2
  return {
    kind: 'references',
    levels: centred(smooth(profileLevels(profile))),
    tolerance: Float64Array.from(LEVEL_BANDS, (_, i) =>
      Math.max(LEAST_TOLERANCE_DB, recordings > 1 ? ALIKE_SIGMAS * spread(i) : 0),
    ),
  }
}

/**
 * Holds long-term levels (sixth octaves, dB) against a target.
 * @param isHeld whether a band is judged: what has nothing but noise in it, or nothing at all, is not.
 */
export function readBalance(
  levels: Float64Array,
  target: BalanceTarget,
  isHeld: (band: number) => boolean = () => true,
): Balance {
  const apart = levels.map((db, i) => db - target.levels[i])
  // What the source does not have is not missed: it counts as the band beside it that it has.
  const first = LEVEL_BANDS.findIndex((_, i) => isHeld(i))
  for (let i = first - 1; i >= 0; i--) apart[i] = apart[i + 1]
  for (let i = first + 1; i < apart.length; i++) if (!isHeld(i)) apart[i] = apart[i - 1]
  const deviation = centred(smooth(apart))
  return { deviation, target, regions: regionsOut({ deviation, target }, 1, isHeld) }
}

/**
 * The regions whose deviation is more than so many times the tolerance, the furthest out first.
 * @param isHeld whether a band is judged.
 */
export function regionsOut(
  { deviation, target }: Pick<Balance, 'deviation' | 'target'>,
  times: number,
  isHeld: (band: number) => boolean = () => true,
): BalanceRegion[] {
  const inside = (i: number) =>
    LEVEL_BANDS[i].hz >= FROM_HZ && LEVEL_BANDS[i].hz <= TO_HZ && isHeld(i)
  const regions: BalanceRegion[] = []
  for (let from = 0; from < deviation.length; from++) {
    const sign = Math.sign(deviation[from])
    const out = (i: number) =>
      i < deviation.length && inside(i) && sign * deviation[i] > times * target.tolerance[i]
    if (!out(from)) continue
    let to = from
    while (out(to)) to++
    if (to - from >= NARROWEST) regions.push(region(deviation, target, from, to))
    from = to - 1
  }
  regions.sort((a, b) => Math.abs(b.deviationDb) - Math.abs(a.deviationDb))
  return regions.slice(0, MOST_REGIONS)
}

/** How far another reading stands out of its target over the same region, in dB. */
export function regionDeviation({ deviation }: Balance, { fromHz, toHz }: BalanceRegion): number {
  const inside = LEVEL_BANDS.flatMap(({ hz }, i) =>
    hz > fromHz && hz < toHz ? [deviation[i]] : [],
  )
  return inside.reduce((sum, db) => sum + db, 0) / inside.length
}

function region(
  deviation: Float64Array,
  target: BalanceTarget,
  from: number,
  to: number,
): BalanceRegion {
  let sum = 0
  let tolerance = 0
  for (let i = from; i < to; i++) {
    sum += deviation[i]
    tolerance += target.tolerance[i]
  }
  const deviationDb = sum / (to - from)
  const fromHz = LEVEL_BANDS[from].fromHz
  const toHz = LEVEL_BANDS[to - 1].toHz
  const hz = Math.sqrt(fromHz * toHz)
  return {
    fromHz,
    toHz,
    hz,
    deviationDb,
    toleranceDb: tolerance / (to - from),
    band: bandFor(fromHz, toHz, -HALVED * deviationDb),
  }
}

/** Wide and gentle: a shelf where the region reaches an end, else a bell of Q about one half. */
function bandFor(fromHz: number, toHz: number, wantedDb: number): EqBand {
  const db = Math.round(2 * Math.max(-MOST_DB, Math.min(MOST_DB, wantedDb))) / 2
  const common = { db, slopeDbPerOct: 12, channel: 'stereo' } as const
  if (toHz > 0.8 * TO_HZ) {
    return { type: 'high-shelf', hz: Math.round(fromHz * 1.2), q: 0.5, ...common }
  }
  if (fromHz < 1.3 * FROM_HZ) {
    return { type: 'low-shelf', hz: Math.round(toHz / 1.2), q: 0.5, ...common }
  }
  return { type: 'bell', hz: Math.round(Math.sqrt(fromHz * toHz)), q: 0.5, ...common }
}

function smooth(levels: Float64Array): Float64Array {
  return levels.map((_, i) => {
    let sum = 0
    let weight = 0
    for (let k = -2 * SMOOTH; k <= 2 * SMOOTH; k++) {
      const db = levels[i + k]
      if (db === undefined) continue
      const w = Math.exp(-0.5 * ((2 * k) / SMOOTH) ** 2)
      sum += w * 10 ** (db / 10)
      weight += w
    }
    return 10 * Math.log10(sum / weight + 1e-20)
  })
}

/** Takes the mean over the middle of the range out. */
function centred(levels: Float64Array): Float64Array {
  let sum = 0
  let count = 0
  LEVEL_BANDS.forEach(({ hz }, i) => {
    if (hz < FIT_FROM_HZ || hz > FIT_TO_HZ) return
    sum += levels[i]
    count++
  })
  const mean = sum / count
  return levels.map((db) => db - mean)
}
