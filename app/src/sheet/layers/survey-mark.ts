import { bandEdges, type EqBand, hasGain } from '@sober-prism/core/filters'
import type { ChainBand } from '@sober-prism/core/treatments'
import { curveAt } from '../read-curve'
import { dbToY, type SheetScale, toX, withinSheet } from '../sheet-scale'

/** Where a band's mark stands on the sheet, in pixels: drawn and grabbed by the same figures. */
export interface SurveyMark {
  readonly bandId: string
  readonly letter: string
  readonly band: EqBand
  readonly on: boolean
  readonly x: number
  readonly zeroY: number
  /** Where the stem ends: on the band's own curve, or for cuts on the zero line. */
  readonly curveY: number
  /** The flag's lower end. */
  readonly flagY: number
  /** The bracket along the top for the width; none for cuts. */
  readonly bracket: { readonly fromX: number; readonly toX: number } | null
}

export const FLAG_WIDTH = 20
export const FLAG_HEIGHT = 15
export const BRACKET_Y = 8

/** Lays out the marks of the bands that stand on the sheet. */
export function layOutMarks(
  bands: readonly ChainBand[],
  letters: readonly string[],
  scale: SheetScale,
  rateHz: number,
): SurveyMark[] {
  return bands.map((move, i) => {
    const { band } = move
    const x = toX(band.hz, scale)
    const zeroY = dbToY(0, scale)
    const atHz = hasGain(band.type) ? curveAt(band, band.hz, rateHz) : 0
    const curveY = dbToY(withinSheet(atHz, scale), scale)
    const flagY = Math.min(zeroY, curveY) - 14
    const edges = bandEdges(band)
    return {
      bandId: move.id,
      letter: letters[i],
      band,
      on: move.on,
      x,
      zeroY,
      curveY,
      flagY: Math.max(BRACKET_Y + FLAG_HEIGHT + 4, flagY),
      bracket: edges && { fromX: toX(edges.fromHz, scale), toX: toX(edges.toHz, scale) },
    }
  })
}

/** Letters of bands in order: a … z, aa … */
export function bandLetter(index: number): string {
  const last = String.fromCharCode(97 + (index % 26))
  return index < 26 ? last : String.fromCharCode(96 + Math.floor(index / 26)) + last
}
