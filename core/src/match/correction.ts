import { kWeightingDb } from '../loudness'
import { erbBandwidthHz } from '../spectrum'
import { type Profile, THIRDS, TWELFTHS } from './profile'

/** Two long-term spectra that are to become alike, per twelfth of an octave. */
export interface SpectrumPair {
  /** Of the sound and of its target at the same loudness, in dB. */
  readonly haveDb: readonly number[]
  readonly wantDb: readonly number[]
  /** 0 where one of the two has nothing but noise or nothing at all, 1 where both sound surely. */
  readonly weight: readonly number[]
}

/** A gain wanted at each twelfth of an octave. */
interface WantedCurve {
  /** In dB, up to a constant. */
  readonly db: readonly number[]
  readonly weight: readonly number[]
}

/** How a difference becomes a correction. */
export interface CorrectionSettings {
  /** Width of the smoothing in octaves; as wide as hearing's own bands where `erb`. */
  readonly smoothing: number | 'erb'
  /** Nothing is done outside. */
  readonly fromHz: number
  readonly toHz: number
  readonly mostBoostDb: number
  readonly mostCutDb: number
  /** Part of the difference that is made up, 0 to 1.5. */
  readonly amount: number
}

export const USUAL_CORRECTION: CorrectionSettings = {
  smoothing: 1 / 3,
  fromHz: 20,
  toHz: 20_000,
  mostBoostDb: 12,
  mostCutDb: 12,
  amount: 1,
}

/** Further than this below the loudest third, a band counts as empty. */
const EMPTY_DB = 72
/** From nothing to full trust, above the noise. */
const NOISE_DB = [3, 9] as const
/** Sounds reach no higher than this share of half their rate: converters and decoders cut there. */
const TOP_SHARE = 0.92
/** The span ends softly, over this many octaves. */
const SPAN_OCTAVES = 1 / 3
const PER_OCTAVE = 12

/** Levels of the twelfths, all known as power density so that smoothing leaves slopes alone. */
const DENSITY = TWELFTHS.map(({ fromHz, toHz }) => toHz - fromHz)

/** The spectra of two profiles, brought to the same loudness, and where both can be trusted. */
export function pairOf(from: Profile, to: Profile): SpectrumPair {
  const level = from.loudness.integratedLufs - to.loudness.integratedLufs
  return {
    haveDb: from.twelfths.meanDb,
    wantDb: to.twelfths.meanDb.map((db) => db + level),
    weight: TWELFTHS.map((_, i) => Math.min(trust(from, i), trust(to, i))),
  }
}

/**
 * What brings a sound to a target: the difference of the long-term spectra, each smoothed as power, where both sound
 * surely. Limits are put on by {@link limited} once it is known where zero is.
 */
export function wantedCurve(
  { haveDb, wantDb, weight }: SpectrumPair,
  { smoothing }: Pick<CorrectionSettings, 'smoothing'>,
): WantedCurve {
  const octaves = (hz: number) => (smoothing === 'erb' ? erbOctaves(hz) : smoothing)
  const [have, want] = [haveDb, wantDb].map((db) => smoothedPower(db, weight, octaves))
  const difference = want.map((db, i) => (weight[i] > 0 ? db - have[i] : 0))
  return { weight, db: smoothed(difference, weight, octaves) }
}

/** How surely each twelfth of a profile is its source and not its noise, 0 to 1. */
export function trustOf(profile: Profile): number[] {
  return TWELFTHS.map((_, i) => trust(profile, i))
}

/** Where a converter or decoder has cut the top off, a spectrum falls faster than anything that sounds. */
const EDGE_DB = 24
const EDGE_BANDS = 3
const EDGE_FROM_HZ = 3000

/** Whether a twelfth lies at or behind such a fall. */
function isBehindEdge(levels: readonly number[], i: number): boolean {
  const from = TWELFTHS.findIndex(({ hz }) => hz >= EDGE_FROM_HZ)
  for (let k = from; k <= i + EDGE_BANDS && k < levels.length; k++) {
    if (levels[k] < levels[k - EDGE_BANDS] - EDGE_DB) return i >= k - EDGE_BANDS
  }
  return false
}

function trust({ twelfths, thirds, topHz }: Profile, i: number): number {
  const { hz, toHz } = TWELFTHS[i]
  if (toHz > TOP_SHARE * topHz) return 0
  const third = THIRDS.findIndex((b) => hz <= b.toHz)
  const at = third < 0 ? THIRDS.length - 1 : third
  const loudest = thirds.meanDb.reduce((a, v) => Math.max(a, v), -200)
  const level = thirds.meanDb[at]
  if (level < loudest - EMPTY_DB) return 0
  // A twelfth between the partials of a few notes tells nothing of the source either.
  if (twelfths.meanDb[i] < loudest - EMPTY_DB - 6) return 0
  if (isBehindEdge(twelfths.meanDb, i)) return 0
  if (!thirds.noiseDb) return 1
  const [none, full] = NOISE_DB
  return Math.max(0, Math.min(1, (level - thirds.noiseDb[at] - none) / (full - none)))
}

/** Half of the smoothing is put on the powers, so that notes of two pieces need not lie at the same places. */
const POWER_SHARE = 0.5

/** Power density smoothed with a bell over the logarithm of frequency, weighted; in dB. */
function smoothedPower(
  levels: readonly number[],
  weight: readonly number[],
  octaves: (hz: number) => number,
): number[] {
  const density = levels.map((db, i) => 10 ** (db / 10) / DENSITY[i])
  const width = (hz: number) => POWER_SHARE * octaves(hz)
  return weightedSum(density, weight, width, gauss).map((power, i) =>
    power !== null && power > 0 ? 10 * Math.log10(power * DENSITY[i]) : levels[i],
  )
}

/** Smoothed by a kernel that leaves parabolas as they are, so that hills do not become lower; a bell at lonely places. */
function smoothed(
  values: readonly number[],
  weight: readonly number[],
  octaves: (hz: number) => number,
): number[] {
  const fine = weightedSum(values, weight, octaves, flatTopped)
  const plain = weightedSum(values, weight, octaves, gauss)
  return values.map((own, i) => fine[i] ?? plain[i] ?? own)
}

const gauss = (x: number) => Math.exp(-0.5 * x * x)
const flatTopped = (x: number) => (1.5 - 0.5 * x * x) * gauss(x)
/** Less of its weight than this within reach, and a kernel is not used. */
const LEAST_SHARE = 0.5

/** @param octaves full width of the kernel's bell at half height. @returns null where too little lies within reach. */
function weightedSum(
  values: readonly number[],
  weight: readonly number[],
  octaves: (hz: number) => number,
  kernel: (sigmas: number) => number,
): (number | null)[] {
  return values.map((_, i) => {
    const sigma = (octaves(TWELFTHS[i].hz) * PER_OCTAVE) / FULL_WIDTH
    const reach = Math.ceil(REACH * sigma)
    let sum = 0
    let total = 0
    let whole = 0
    for (let k = i - reach; k <= i + reach; k++) {
      const share = kernel((k - i) / sigma)
      whole += share
      if (k < 0 || k >= values.length) continue
      sum += weight[k] * share * values[k]
      total += weight[k] * share
    }
    return total > LEAST_SHARE * (kernel === gauss ? 1e-6 : whole) ? sum / total : null
  })
}

/** Of a bell, in sigmas. */
const FULL_WIDTH = 2.355
const REACH = 4

function erbOctaves(hz: number): number {
  const width = erbBandwidthHz(hz)
  return Math.log2((hz + width / 2) / Math.max(1, hz - width / 2))
}

/** The curve with a zero: within its span, up to the ceilings, as much of it as is asked for. */
export function limited(
  { db, weight }: WantedCurve,
  zeroDb: number,
  { fromHz, toHz, mostBoostDb, mostCutDb, amount }: CorrectionSettings,
): number[] {
  return db.map((value, i) => {
    const inside = spanShare(TWELFTHS[i].hz, fromHz, toHz)
    const wanted = amount * (value - zeroDb) * inside * weight[i]
    return Math.max(-mostCutDb, Math.min(mostBoostDb, wanted))
  })
}

function spanShare(hz: number, fromHz: number, toHz: number): number {
  const over = (octaves: number) =>
    octaves <= 0
      ? 0
      : octaves >= SPAN_OCTAVES
        ? 1
        : 0.5 - 0.5 * Math.cos((Math.PI * octaves) / SPAN_OCTAVES)
  // Where the span reaches the end of hearing nothing has to be faded.
  const low = fromHz <= 20 ? 1 : over(Math.log2(hz / fromHz))
  const high = toHz >= 20_000 ? 1 : over(Math.log2(toHz / hz))
  return Math.min(low, high)
}

/** The middle of the wanted gains, by weight: half of what sounds wants more, half less. */
export function middleOf({ db, weight }: WantedCurve): number {
  const order = db.map((_, i) => i).sort((a, b) => db[a] - db[b])
  const half = weight.reduce((a, v) => a + v, 0) / 2
  let sum = 0
  for (const i of order) {
    sum += weight[i]
    if (sum >= half) return db[i]
  }
  return 0
}

const K_DB = TWELFTHS.map(({ hz }) => kWeightingDb(hz))

/** By how much gains change a sound's loudness, in LU, read from its long-term spectrum (BS.1770's weighting). */
export function loudnessChange(levelsDb: readonly number[], gainsDb: readonly number[]): number {
  let before = 0
  let after = 0
  levelsDb.forEach((db, i) => {
    const power = 10 ** ((db + K_DB[i]) / 10)
    before += power
    after += power * 10 ** (gainsDb[i] / 10)
  })
  return 10 * Math.log10(after / before)
}
