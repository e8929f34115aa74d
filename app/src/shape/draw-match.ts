import { type CorrectionSettings, type Profile, TWELFTHS } from '@sober-prism/core/match'
import { FIGURE_FONT } from '../plot/inks'
import type { Surface } from '../plot/plot'
import { hzToX, PLOT_LEFT, PLOT_RIGHT } from '../plot/ruler'

/** Smoothing of what is drawn, in twelfths to either side: notes are no matter here. */
const SMOOTH = 2
/** Levels that are shown, in dB. */
const RANGE_DB = 60

/** What is shown of a comparison. */
export interface MatchPicture {
  readonly from: Profile | null
  readonly to: Profile | null
  readonly wantedDb: readonly number[]
  readonly givenDb: readonly number[]
  readonly weight: readonly number[]
  readonly settings: CorrectionSettings
}

/** Share of the height that the spectra have; below them stand the correction, and what remains. */
const SPECTRA = 0.5
const CORRECTION = 0.82
const LARGE_ERROR_DB = 1.5

/** Where one is as a line, where one would be as a band with its spread; the wanted and the given; what remains. */
export function drawMatch(surface: Surface, picture: MatchPicture): void {
  const { context, width, height, sheet } = surface
  const { from, to, weight } = picture
  const x = TWELFTHS.map(({ hz }) => hzToX(hz, width))
  // Of published responses there is no spectrum.
  const spectra = from && to ? Math.round(SPECTRA * height) : 0
  if (from && to) drawSpectra(surface, { from, to, weight }, x, spectra)
  const top = spectra + 6
  const bottom = Math.round(CORRECTION * height)
  context.strokeStyle = sheet.line
  context.beginPath()
  context.moveTo(PLOT_LEFT, top - 3.5)
  context.lineTo(width - PLOT_RIGHT, top - 3.5)
  context.stroke()
  drawCorrection(surface, picture, x, top, bottom)
  drawRest(surface, picture, x, bottom + 4, height - 2)
}

function drawSpectra(
  { context, width, sheet }: Surface,
  { from, to, weight }: { from: Profile; to: Profile; weight: readonly number[] },
  x: readonly number[],
  bottom: number,
): void {
  const equal = from.loudness.integratedLufs - to.loudness.integratedLufs
  const have = tilted(from.twelfths.meanDb)
  const want = tilted(to.twelfths.meanDb.map((v) => v + equal))
  const spread = smoothed(to.twelfths.spreadDb)
  const top = have.reduce((most, v, i) => Math.max(most, v, want[i] + spread[i]), -200) + 2
  const y = (db: number) => 4 + ((top - Math.max(top - RANGE_DB, db)) / RANGE_DB) * (bottom - 8)
  context.fillStyle = sheet.area
  context.beginPath()
  want.forEach((v, i) => {
    context.lineTo(x[i], y(v + spread[i]))
  })
  for (let i = want.length - 1; i >= 0; i--) context.lineTo(x[i], y(want[i] - spread[i]))
  context.closePath()
  context.fill()
  strokeLine(context, x, want.map(y), sheet.inkSoft, 1)
  strokeLine(context, x, have.map(y), sheet.ink, 1.75)
  context.font = FIGURE_FONT
  context.textBaseline = 'top'
  // What is left alone looks it.
  context.fillStyle = sheet.paper
  context.globalAlpha = 0.7
  weight.forEach((w, i) => {
    if (w > 0) return
    const left = i === 0 ? PLOT_LEFT : (x[i - 1] + x[i]) / 2
    const right = i === x.length - 1 ? width - PLOT_RIGHT : (x[i] + x[i + 1]) / 2
    context.fillRect(left, 0, right - left, bottom)
  })
  context.globalAlpha = 1
}

function drawCorrection(
  { context, width, sheet }: Surface,
  { wantedDb, givenDb, weight, settings }: MatchPicture,
  x: readonly number[],
  top: number,
  bottom: number,
): void {
  const most = Math.max(
    6,
    ...wantedDb.map((v, i) => (weight[i] > 0 ? Math.abs(v) : 0)),
    ...givenDb.map((v, i) => (weight[i] > 0 ? Math.abs(v) : 0)),
  )
  const scale = Math.min(most, Math.max(settings.mostBoostDb, settings.mostCutDb, 6)) + 1
  const y = (db: number) =>
    (top + bottom) / 2 - (Math.max(-scale, Math.min(scale, db)) / scale) * ((bottom - top) / 2)
  context.font = FIGURE_FONT
  context.textBaseline = 'middle'
  context.textAlign = 'left'
  const step = scale > 10 ? 6 : 3
  for (let db = -step * Math.floor(scale / step); db <= scale; db += step) {
    context.strokeStyle = db === 0 ? sheet.lineStrong : sheet.line
    context.lineWidth = 1
    context.beginPath()
    context.moveTo(PLOT_LEFT, Math.round(y(db)) + 0.5)
    context.lineTo(width - PLOT_RIGHT, Math.round(y(db)) + 0.5)
    context.stroke()
    context.fillStyle = sheet.inkSoft
    if (Math.abs(db) === step) context.fillText(db > 0 ? `+${db}` : `−${-db}`, PLOT_LEFT + 2, y(db))
  }
  context.setLineDash([2, 3])
  strokeLine(context, x, wantedDb.map(y), sheet.inkSoft, 1.5, weight)
  context.setLineDash([])
  context.globalAlpha = 0.3
  strokeLine(context, x, givenDb.map(y), sheet.ink, 1.5)
  context.globalAlpha = 1
  strokeLine(context, x, givenDb.map(y), sheet.ink, 1.75, weight)
}

function drawRest(
  { context, width, sheet }: Surface,
  { wantedDb, givenDb, weight }: MatchPicture,
  x: readonly number[],
  top: number,
  bottom: number,
): void {
  const middle = Math.round((top + bottom) / 2) + 0.5
  const bar = Math.max(2, (x[1] - x[0]) * 0.6)
  context.strokeStyle = sheet.line
  context.beginPath()
  context.moveTo(PLOT_LEFT, middle)
  context.lineTo(width - PLOT_RIGHT, middle)
  context.stroke()
  wantedDb.forEach((v, i) => {
    if (weight[i] === 0) return
    const rest = v - givenDb[i]
    const length = (Math.min(4, Math.abs(rest)) / 4) * ((bottom - top) / 2)
    context.fillStyle = Math.abs(rest) > LARGE_ERROR_DB ? sheet.warning : sheet.lineStrong
    context.fillRect(x[i] - bar / 2, rest > 0 ? middle - length : middle, bar, Math.max(1, length))
  })
}

/** @param weight only where it is above nothing; everywhere by default. */
function strokeLine(
  context: CanvasRenderingContext2D,
  x: readonly number[],
  y: readonly number[],
  colour: string,
  width: number,
  weight?: readonly number[],
): void {
  const isDrawn = (i: number) => i >= 0 && (!weight || weight[i] > 0)
  context.strokeStyle = colour
  context.lineWidth = width
  context.beginPath()
  y.forEach((v, i) => {
    if (!isDrawn(i)) return
    if (isDrawn(i - 1)) context.lineTo(x[i], v)
    else context.moveTo(x[i], v)
  })
  context.stroke()
}

/** Over a bell of {@link SMOOTH}. */
function smoothed(values: readonly number[]): number[] {
  return values.map((_, i) => {
    let sum = 0
    let weight = 0
    for (
      let k = Math.max(0, i - 3 * SMOOTH);
      k <= Math.min(values.length - 1, i + 3 * SMOOTH);
      k++
    ) {
      const w = Math.exp(-0.5 * ((k - i) / SMOOTH) ** 2)
      sum += w * values[k]
      weight += w
    }
    return sum / weight
  })
}

/** Smoothed as power, and lifted by 1.5 dB per octave, so that music lies about level. */
function tilted(levels: readonly number[]): number[] {
  return smoothed(levels.map((db) => 10 ** (db / 10))).map(
    (power, i) => 10 * Math.log10(power + 1e-20) + 1.5 * Math.log2(TWELFTHS[i].hz / 1000),
  )
}
