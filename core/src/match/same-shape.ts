import { analogueDb, type EqBand, hasGain } from '../filters'
import { fitBands } from './fit-bands'
import { TWELFTHS } from './profile'

/** The same shape by other bands: those, and what is to be added to the gain behind them. */
export interface SameShape {
  readonly bands: readonly EqBand[]
  readonly gainDb: number
  /** How far it is from the shape that was, in dB rms from 20 Hz to 20 kHz. */
  readonly rmsErrorDb: number
}

export type ShapeWay = 'cuts' | 'boosts'

const MOST_BANDS = 10
const WITHIN_DB = 0.25
const MOST_DB = 24
/** The same shape is at most this far from it, in dB rms. */
const NEAR_DB = 0.5

/**
 * The shape of bands by cuts alone, or by boosts alone, as loud: fitted to what their gains do together. Cuts at the ends,
 * notches and the like have no counterpart and stay. Null where no ten bands come within half a decibel.
 * @param bands of one equaliser, for both channels alike.
 */
export function sameShape(bands: readonly EqBand[], way: ShapeWay): SameShape | null {
  const shaped = bands.filter((b) => hasGain(b.type))
  const kept = bands.filter((b) => !hasGain(b.type))
  if (bands.some((b) => b.channel !== 'stereo') || shaped.length === 0) return null
  const wanted = TWELFTHS.map(({ hz }) => shaped.reduce((sum, b) => sum + analogueDb(b, hz), 0))
  const fitted = fitBands(
    wanted,
    TWELFTHS.map(() => 1),
    {
      most: MOST_BANDS,
      withinDb: WITHIN_DB,
      mostBoostDb: way === 'boosts' ? MOST_DB : 0,
      mostCutDb: way === 'cuts' ? MOST_DB : 0,
      fromHz: 20,
      toHz: 20_000,
    },
  )
  if (fitted.rmsErrorDb > NEAR_DB || fitted.bands.length === 0) return null
  return {
    bands: [...kept, ...fitted.bands],
    gainDb: fitted.zeroDb,
    rmsErrorDb: fitted.rmsErrorDb,
  }
}

/** Whether bands do it that way already. */
export function isShapedBy(bands: readonly EqBand[], way: ShapeWay): boolean {
  const shaped = bands.filter((b) => hasGain(b.type) && b.type !== 'tilt')
  return shaped.length > 0 && shaped.every((b) => (way === 'cuts' ? b.db <= 0 : b.db >= 0))
}
