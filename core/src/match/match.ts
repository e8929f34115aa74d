import type { EqBand } from '../filters'
import {
  type CorrectionSettings,
  limited,
  loudnessChange,
  middleOf,
  pairOf,
  type SpectrumPair,
  wantedCurve,
} from './correction'
import { fitBands } from './fit-bands'
import { type NotMatched, notMatched } from './not-matched'
import type { Profile } from './profile'

/** Bands that bring one sound to another, and what stays. */
export interface MatchByBands {
  readonly bands: readonly EqBand[]
  /** Per twelfth of an octave, in dB. */
  readonly wantedDb: readonly number[]
  readonly givenDb: readonly number[]
  readonly weight: readonly number[]
  /** Gain that keeps the loudness, in dB. */
  readonly trimDb: number
  readonly rmsErrorDb: number
  readonly notMatched: readonly NotMatched[]
}

/** Bands that are tried to find where the curve's zero is. */
const ZERO_BANDS = 8
/** What the word "alike" means here, in dB rms. */
export const ALIKE_DB = 1
export const MOST_MATCH_BANDS = 12

/**
 * Where the zero of a wanted curve lies, in dB: at the height at which the fewest bands answer it, so that what is alike
 * stays untouched. Takes some tenths of a second.
 */
export function zeroOf(pair: SpectrumPair, settings: CorrectionSettings): number {
  const curve = wantedCurve(pair, settings)
  const start = middleOf(curve)
  const { zeroDb } = fitBands(
    curve.db.map((v) => v - start),
    curve.weight,
    { ...settings, most: ZERO_BANDS, withinDb: ALIKE_DB / 2 },
  )
  return start + zeroDb
}

/** The correction from one spectrum to another, in dB per twelfth of an octave, from its zero. */
export function correctionOf(
  pair: SpectrumPair,
  settings: CorrectionSettings,
  zeroDb: number,
): number[] {
  return limited(wantedCurve(pair, settings), zeroDb, settings)
}

/**
 * Brings a sound to a target by ordinary bands.
 * @param bands how many; by default the fewest that come within 1 dB rms.
 */
export function matchByBands(
  from: Profile,
  to: Profile,
  settings: CorrectionSettings,
  bands?: number,
): MatchByBands {
  const pair = pairOf(from, to)
  const { weight } = pair
  const wantedDb = correctionOf(pair, settings, zeroOf(pair, settings))
  const fitted = fitBands(wantedDb, weight, {
    ...settings,
    most: bands ?? MOST_MATCH_BANDS,
    withinDb: bands === undefined ? ALIKE_DB : 0.05,
  })
  const { givenDb } = fitted
  return {
    bands: fitted.bands,
    // What the fit found to be a constant is no difference in sound.
    wantedDb: wantedDb.map((v) => v - fitted.zeroDb),
    givenDb,
    weight,
    trimDb: -loudnessChange(pair.haveDb, givenDb),
    rmsErrorDb: fitted.rmsErrorDb,
    notMatched: notMatched(from, to, givenDb),
  }
}
