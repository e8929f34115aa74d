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
import { fitBands, fitEach } from './fit-bands'
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
  readonly outputDb: number
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
  const fit = {
    most: bands ?? MOST_MATCH_BANDS,
    withinDb: bands === undefined ? ALIKE_DB : EXACT_DB,
  }
  return ways(from, to, settings, fit).byBands.at(-1) as MatchByBands
}

/** {@link matchByBands} with none, one, two … bands, and the zero that one long filter starts from. */
export function matchWays(
  from: Profile,
  to: Profile,
  settings: CorrectionSettings,
  onProgress?: (share: number) => void,
): MatchWays {
  return ways(from, to, settings, MOST_FIT, onProgress)
}

/** The first of several ways that comes near; else the last. */
export function fewestBands(byBands: readonly MatchByBands[]): number {
  const near = byBands.findIndex((m) => m.rmsErrorDb <= ALIKE_DB)
  return near < 0 ? byBands.length - 1 : near
}

/** Ways to bring one sound to another. */
export interface MatchWays {
  /** By number of bands, none first. */
  readonly byBands: readonly MatchByBands[]
  /** Level of the difference at which nothing is done. */
  readonly zeroDb: number
}

/** Nearer than this there is nothing left to fit. */
const EXACT_DB = 0.05
const MOST_FIT = { most: MOST_MATCH_BANDS, withinDb: EXACT_DB }

/** {@link matchWays} from one published response to another; what else may differ is not in them. */
export function responseWays(
  pair: SpectrumPair,
  settings: CorrectionSettings,
  onProgress?: (share: number) => void,
): MatchWays {
  return pairWays(pair, settings, MOST_FIT, () => [], onProgress)
}

interface FitEnd {
  readonly most: number
  readonly withinDb: number
}

function ways(
  from: Profile,
  to: Profile,
  settings: CorrectionSettings,
  fit: FitEnd,
  onProgress?: (share: number) => void,
): MatchWays {
  const stays = (givenDb: readonly number[]) => notMatched(from, to, givenDb)
  return pairWays(pairOf(from, to), settings, fit, stays, onProgress)
}

function pairWays(
  pair: SpectrumPair,
  settings: CorrectionSettings,
  fit: FitEnd,
  stays: (givenDb: readonly number[]) => readonly NotMatched[],
  onProgress?: (share: number) => void,
): MatchWays {
  const { weight } = pair
  const zeroDb = zeroOf(pair, settings)
  const wantedDb = correctionOf(pair, settings, zeroDb)
  const byBands = fitEach(wantedDb, weight, { ...settings, ...fit }, onProgress).map((fitted) => {
    const { bands, givenDb, rmsErrorDb } = fitted
    return {
      bands,
      // What the fit found to be a constant is no difference in sound.
      wantedDb: wantedDb.map((v) => v - fitted.zeroDb),
      givenDb,
      weight,
      outputDb: -loudnessChange(pair.haveDb, givenDb),
      rmsErrorDb,
      notMatched: stays(givenDb),
    }
  })
  return { byBands, zeroDb }
}
