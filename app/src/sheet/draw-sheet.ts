import { type Balance, LEVEL_BANDS } from '@sober-prism/core/findings'
import type { Band } from '@sober-prism/core/spectrum'
import { signed } from '../format'
import { FIGURE_FONT } from '../plot/inks'
import type { Surface } from '../plot/plot'
import { hzToX, PLOT_LEFT, PLOT_RIGHT, rulerSpan } from '../plot/ruler'
import { BRACKET_Y, FLAG_HEIGHT, FLAG_WIDTH, type SurveyMark } from './layers/survey-mark'
import type { BandCurve } from './read-curve'
import { dbToY, type SheetScale, sheetLines, withinSheet } from './sheet-scale'

/** Levels shown behind the curve, from the top of the strips' ink down, in dB. */
const BACKGROUND_RANGE_DB = 66

/** Another spectrum that stands behind, as a hairline with its name. */
export interface Ghost {
  readonly name: string
  /** In dB per band of the sheet. */
  readonly levels: ArrayLike<number>
}

/** A move that a finding proposes and nobody made. */
export interface PencilMark {
  readonly key: string
  readonly x: number
  readonly y: number
}

/** Everything that stands on the sheet. */
export interface SheetPicture {
  readonly scale: SheetScale
  /** Everything of the chain that sounds, its trim left out. */
  readonly curve: BandCurve
  /** The chosen band alone. */
  readonly chosenCurve: BandCurve | null
  readonly marks: readonly SurveyMark[]
  readonly pencil: readonly PencilMark[]
  readonly chosenIds: readonly (string | null)[]
  readonly levelBands: readonly Band[]
  /** Level of the treated track, and of others behind it. */
  readonly levels: ArrayLike<number> | null
  readonly ghosts: readonly Ghost[]
  readonly topDb: number
  /** For the mix: where it stands against its target. */
  readonly balance: Balance | null
}

export function drawSheet(surface: Surface, picture: SheetPicture): void {
  if (picture.levels) drawGround(surface, picture, picture.levels)
  if (picture.balance) drawTolerance(surface, picture.scale, picture.balance)
  drawGrid(surface, picture.scale)
  if (picture.balance) drawDeviation(surface, picture.scale, picture.balance)
  drawGhosts(surface, picture)
  if (picture.chosenCurve) drawOwnCurve(surface, picture, picture.chosenCurve)
  drawCurve(surface, picture)
  for (const mark of picture.pencil) drawPencil(surface, picture.scale, mark)
  for (const mark of picture.marks) {
    drawMark(surface, mark, picture.chosenIds.includes(mark.bandId))
  }
}

function drawGrid({ context, width, sheet }: Surface, scale: SheetScale): void {
  context.font = FIGURE_FONT
  context.textAlign = 'left'
  context.textBaseline = 'bottom'
  for (const db of sheetLines(scale)) {
    const y = Math.round(dbToY(db, scale)) + 0.5
    context.strokeStyle = db === 0 ? sheet.lineStrong : sheet.line
    context.lineWidth = 1
    context.beginPath()
    context.moveTo(PLOT_LEFT, y)
    context.lineTo(width - PLOT_RIGHT, y)
    context.stroke()
    context.fillStyle = sheet.inkSoft
    const text = db === 0 ? '0 dB' : `${db > 0 ? '+' : ''}${signed(db, 0)}`
    context.fillText(text, PLOT_LEFT + 3, y - 1)
  }
}

/** Where a level of a spectrum stands, in a sheet `height` pixels high. */
export function levelToY(db: number, topDb: number, height: number): number {
  const share = (db - topDb + BACKGROUND_RANGE_DB) / BACKGROUND_RANGE_DB
  return height - 4 - Math.max(0, Math.min(1.3, share)) * (height * 0.62)
}

/** The path of a spectrum over the sheet. */
export function levelPath(
  { context, width, height }: Surface,
  bands: readonly Band[],
  levels: ArrayLike<number>,
  topDb: number,
): void {
  context.beginPath()
  for (let i = 0; i < bands.length; i++) {
    const x = hzToX(bands[i].hz, width)
    const y = levelToY(levels[i], topDb, height)
    if (i === 0) context.moveTo(x, y)
    else context.lineTo(x, y)
  }
}

function drawGround(surface: Surface, picture: SheetPicture, levels: ArrayLike<number>): void {
  const { context, width, height, sheet } = surface
  levelPath(surface, picture.levelBands, levels, picture.topDb)
  context.lineTo(width - PLOT_RIGHT, height - 4)
  context.lineTo(PLOT_LEFT, height - 4)
  context.closePath()
  context.fillStyle = sheet.area
  context.fill()
}

/** Told apart by their dashes, and by their name at their loudest place. */
function drawGhosts(surface: Surface, { ghosts, levelBands, topDb }: SheetPicture): void {
  const { context, width, height, sheet } = surface
  context.font = FIGURE_FONT
  context.textAlign = 'center'
  context.textBaseline = 'bottom'
  ghosts.forEach(({ name, levels }, index) => {
    context.strokeStyle = sheet.inkSoft
    context.lineWidth = 1.25
    context.setLineDash(GHOST_DASHES[index % GHOST_DASHES.length])
    levelPath(surface, levelBands, levels, topDb)
    context.stroke()
    context.setLineDash([])
    const { lowHz, highHz } = rulerSpan.value
    const seen = levelBands.flatMap(({ hz }, b) => (hz >= lowHz && hz <= highHz ? b : []))
    if (seen.length === 0) return
    const top = seen.reduce((most, b) => (levels[b] > levels[most] ? b : most))
    context.fillStyle = sheet.inkSoft
    const x = Math.max(PLOT_LEFT + 20, Math.min(width - 40, hzToX(levelBands[top].hz, width)))
    context.fillText(name, x, levelToY(levels[top], topDb, height) - 3)
  })
}

const GHOST_DASHES = [
  [1.5, 3],
  [6, 3],
  [6, 3, 1.5, 3],
  [12, 4],
]

/** A flag in pencil: dashed, with a question mark. */
function drawPencil({ context, sheet }: Surface, scale: SheetScale, { x, y }: PencilMark): void {
  context.strokeStyle = sheet.inkSoft
  context.lineWidth = 1
  context.setLineDash([2, 2])
  context.beginPath()
  context.moveTo(x, dbToY(0, scale))
  context.lineTo(x, y)
  context.moveTo(x - 4, y)
  context.lineTo(x + 4, y)
  const top = dbToY(0, scale) - FLAG_HEIGHT - 2
  context.rect(x, top, FLAG_WIDTH - 4, FLAG_HEIGHT)
  context.stroke()
  context.setLineDash([])
  context.fillStyle = sheet.inkSoft
  context.font = FIGURE_FONT
  context.textAlign = 'center'
  context.textBaseline = 'middle'
  context.fillText('?', x + (FLAG_WIDTH - 4) / 2, top + FLAG_HEIGHT / 2 + 0.5)
}

/** What counts as alike: two hairlines about the zero line. */
function drawTolerance({ context, width, sheet }: Surface, scale: SheetScale, b: Balance): void {
  context.strokeStyle = sheet.lineStrong
  context.lineWidth = 1
  for (const sign of [1, -1]) {
    context.beginPath()
    LEVEL_BANDS.forEach(({ hz }, i) => {
      const y = dbToY(sign * b.target.tolerance[i], scale)
      if (i === 0) context.moveTo(hzToX(hz, width), y)
      else context.lineTo(hzToX(hz, width), y)
    })
    context.stroke()
  }
}

/** The mix against its target, dotted; where it stands out, in full ink. */
function drawDeviation({ context, width, sheet }: Surface, scale: SheetScale, b: Balance): void {
  const at = (i: number) => withinSheet(b.deviation[i], scale)
  for (let i = 1; i < LEVEL_BANDS.length; i++) {
    const hz = LEVEL_BANDS[i].hz
    const out = b.regions.some((r) => hz >= r.fromHz && hz <= r.toHz)
    context.strokeStyle = out ? sheet.warning : sheet.inkSoft
    context.lineWidth = out ? 2 : 1.25
    context.setLineDash(out ? [] : [1.5, 3])
    context.beginPath()
    context.moveTo(hzToX(LEVEL_BANDS[i - 1].hz, width), dbToY(at(i - 1), scale))
    context.lineTo(hzToX(hz, width), dbToY(at(i), scale))
    context.stroke()
  }
  context.setLineDash([])
}

function curvePath({ context, width }: Surface, { hz, db }: BandCurve, scale: SheetScale): void {
  const over = 0.2 * (scale.topDb - scale.bottomDb)
  context.beginPath()
  for (let i = 0; i < db.length; i++) {
    const x = hzToX(hz[i], width)
    const y = dbToY(Math.max(scale.bottomDb - over, Math.min(scale.topDb + over, db[i])), scale)
    if (i === 0) context.moveTo(x, y)
    else context.lineTo(x, y)
  }
}

function drawOwnCurve(surface: Surface, picture: SheetPicture, own: BandCurve): void {
  const { context, sheet } = surface
  curvePath(surface, own, picture.scale)
  context.strokeStyle = sheet.accent
  context.lineWidth = 1
  context.stroke()
}

function drawCurve(surface: Surface, picture: SheetPicture): void {
  const { context, height, sheet } = surface
  context.save()
  context.beginPath()
  context.rect(0, 20, surface.width, height - 20)
  context.clip()
  curvePath(surface, picture.curve, picture.scale)
  context.strokeStyle = sheet.ink
  context.lineWidth = 2
  context.lineJoin = 'round'
  context.stroke()
  context.restore()
}

/** A survey mark: a stem from the zero line past the curve, a lettered flag, a bracket for the width. */
function drawMark({ context, sheet }: Surface, mark: SurveyMark, chosen: boolean): void {
  const ink = chosen ? sheet.accent : mark.on ? sheet.ink : sheet.lineStrong
  context.strokeStyle = ink
  context.fillStyle = ink
  context.lineWidth = chosen ? 1.5 : 1
  if (!mark.on) context.setLineDash([3, 3])
  const foot = Math.max(mark.zeroY, mark.curveY)
  context.beginPath()
  context.moveTo(mark.x, foot)
  context.lineTo(mark.x, mark.flagY - FLAG_HEIGHT)
  context.stroke()
  if (mark.bracket) {
    const { fromX, toX } = mark.bracket
    context.beginPath()
    context.moveTo(fromX, BRACKET_Y + 6)
    context.lineTo(fromX, BRACKET_Y)
    context.lineTo(toX, BRACKET_Y)
    context.lineTo(toX, BRACKET_Y + 6)
    context.stroke()
  }
  context.setLineDash([])
  context.beginPath()
  context.arc(mark.x, mark.curveY, 3, 0, 2 * Math.PI)
  context.fill()
  drawFlag(context, mark, chosen, ink, chosen ? sheet.onAccent : ink, sheet.card)
}

function drawFlag(
  context: CanvasRenderingContext2D,
  mark: SurveyMark,
  chosen: boolean,
  ink: string,
  letterInk: string,
  ground: string,
): void {
  const top = mark.flagY - FLAG_HEIGHT
  context.beginPath()
  context.moveTo(mark.x, top)
  context.lineTo(mark.x + FLAG_WIDTH, top)
  context.lineTo(mark.x + FLAG_WIDTH - 5, top + FLAG_HEIGHT / 2)
  context.lineTo(mark.x + FLAG_WIDTH, top + FLAG_HEIGHT)
  context.lineTo(mark.x, top + FLAG_HEIGHT)
  context.closePath()
  context.fillStyle = chosen ? ink : ground
  context.fill()
  context.strokeStyle = ink
  context.stroke()
  context.fillStyle = letterInk
  context.font = FIGURE_FONT
  context.textAlign = 'center'
  context.textBaseline = 'middle'
  context.fillText(mark.letter, mark.x + 7.5, top + FLAG_HEIGHT / 2 + 0.5)
}
