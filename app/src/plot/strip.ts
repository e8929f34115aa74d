import type { CoveredRegion, WinnablePlace } from '@sober-prism/core/findings'
import type { Band } from '@sober-prism/core/spectrum'
import { formatDb, signed } from '../format'
import { FIGURE_FONT } from './inks'
import type { Surface } from './plot'
import { hzToX, PLOT_LEFT, PLOT_RIGHT, type RulerSpan, rulerSpan } from './ruler'

/** Levels from faintest to full ink, in dB. */
const DENSITY_RANGE_DB = 54
const FULL_DENSITY = 0.86
/** How much paper lies over what company covers. */
const WASH = '60'
const WASH_EDGE = 26

/** What one strip shows; levels in dB per band. */
export interface StripPicture {
  readonly bands: readonly Band[]
  readonly levels: ArrayLike<number> | null
  /** Level of full ink. */
  readonly topDb: number
  /** Where company costs it most of its loudness: a light wash. */
  readonly covered: readonly CoveredRegion[]
  /** Where a move could give it back: hatched. */
  readonly winnable: readonly WinnablePlace[]
  /** Drawn as a curve with a scale instead of as ink alone. */
  readonly open: boolean
}

/** What is sounding in a strip now. */
export interface StripLive {
  readonly levels: ArrayLike<number>
}

const PAD = 2

/**
 * Draws long-term level as ink, denser where it is louder and without steps from band to band; live level as a line;
 * a light wash over what company covers, and a hatch over the few places that a move could win back.
 */
export function drawStrip(surface: Surface, strip: StripPicture, live: StripLive | null): void {
  const { context, height, width, sheet } = surface
  const top = PAD
  const tall = height - 2 * PAD
  if (strip.levels) {
    context.fillStyle = inkGradient(surface, strip, strip.levels)
    if (strip.open) curvePath(surface, strip, strip.levels, top, tall, true)
    else {
      context.beginPath()
      context.rect(PLOT_LEFT, top, width - PLOT_LEFT - PLOT_RIGHT, tall)
    }
    context.fill()
    if (strip.open) {
      curvePath(surface, strip, strip.levels, top, tall, false)
      context.strokeStyle = sheet.ink
      context.lineWidth = 1.25
      context.stroke()
      drawLevels(surface, strip, top, tall)
    }
  }
  for (const region of strip.covered) drawWash(surface, region, top, tall)
  for (const place of strip.winnable) drawHatch(surface, place, top, tall)
  if (live) drawLive(surface, strip, live, top, tall)
}

/** A light wash of paper, soft at its ends. */
function drawWash(
  { context, width, sheet }: Surface,
  region: CoveredRegion,
  top: number,
  tall: number,
) {
  const [from, to] = [hzToX(region.fromHz, width), hzToX(region.toHz, width)]
  const soft = Math.min(0.5, WASH_EDGE / Math.max(1, to - from))
  const wash = context.createLinearGradient(from, 0, to, 0)
  wash.addColorStop(0, `${sheet.paper}00`)
  wash.addColorStop(soft, `${sheet.paper}${WASH}`)
  wash.addColorStop(1 - soft, `${sheet.paper}${WASH}`)
  wash.addColorStop(1, `${sheet.paper}00`)
  context.fillStyle = wash
  context.fillRect(from, top, to - from, tall)
}

interface MadeInk {
  readonly levels: ArrayLike<number>
  readonly span: RulerSpan
  readonly of: string
  readonly gradient: CanvasGradient
}

/** The ink that each canvas drew with last: the plumb line moves over a strip without changing it. */
const made = new WeakMap<Surface['context'], MadeInk>()

/** Ink along the ruler: the density of each band at its centre, and all between. */
function inkGradient(
  surface: Surface,
  strip: StripPicture,
  levels: ArrayLike<number>,
): CanvasGradient {
  const { context, width, sheet } = surface
  const of = `${strip.topDb} ${width} ${sheet.density}`
  const known = made.get(context)
  const span = rulerSpan.value
  if (known?.levels === levels && known.span === span && known.of === of) return known.gradient
  const gradient = makeInk(surface, strip, levels)
  made.set(context, { levels, span, of, gradient })
  return gradient
}

function makeInk(
  { context, width, sheet }: Surface,
  { bands, topDb }: StripPicture,
  levels: ArrayLike<number>,
): CanvasGradient {
  // From band to band: what is not looked at lies beside the canvas.
  const [left, right] = [bands[0].hz, bands[bands.length - 1].hz].map((hz) => hzToX(hz, width))
  const gradient = context.createLinearGradient(left, 0, right, 0)
  bands.forEach((band, i) => {
    const at = Math.max(0, Math.min(1, (hzToX(band.hz, width) - left) / (right - left)))
    const alpha = Math.round(255 * FULL_DENSITY * density(levels[i], topDb))
    gradient.addColorStop(at, `${sheet.density}${alpha.toString(16).padStart(2, '0')}`)
  })
  return gradient
}

function curvePath(
  { context, width }: Surface,
  { bands, topDb }: StripPicture,
  levels: ArrayLike<number>,
  top: number,
  tall: number,
  closed: boolean,
): void {
  context.beginPath()
  if (closed) context.moveTo(PLOT_LEFT, top + tall)
  bands.forEach(({ hz }, i) => {
    const x = hzToX(hz, width)
    const y = top + tall * (1 - share(levels[i], topDb))
    if (i === 0) context.lineTo(PLOT_LEFT, y)
    context.lineTo(x, y)
    if (i === bands.length - 1) context.lineTo(width - PLOT_RIGHT, y)
  })
  if (closed) context.lineTo(width - PLOT_RIGHT, top + tall)
}

/** Levels beside an open strip's curve, a line every 12 dB down from full ink. */
function drawLevels(
  { context, width, sheet }: Surface,
  strip: StripPicture,
  top: number,
  tall: number,
) {
  context.font = FIGURE_FONT
  context.fillStyle = sheet.inkSoft
  context.strokeStyle = sheet.line
  context.lineWidth = 1
  context.textAlign = 'right'
  context.textBaseline = 'middle'
  for (let down = 12; down < DENSITY_RANGE_DB; down += 18) {
    const y = Math.round(top + (tall * down) / DENSITY_RANGE_DB) + 0.5
    context.beginPath()
    context.moveTo(PLOT_LEFT, y)
    context.lineTo(width - PLOT_RIGHT, y)
    context.stroke()
    context.fillText(formatDb(strip.topDb - down, 0), width - PLOT_RIGHT - 4, y)
  }
}

/** Level between the floor and full ink, 0 to 1. */
function share(db: number, topDb: number): number {
  return Math.max(0, Math.min(1, (db - topDb + DENSITY_RANGE_DB) / DENSITY_RANGE_DB))
}

/** Level to ink, 0 to 1: a little steeper than straight, so that peaks stand out. */
function density(db: number, topDb: number): number {
  return share(db, topDb) ** 1.5
}

function drawLive(
  { context, width, sheet }: Surface,
  strip: StripPicture,
  live: StripLive,
  top: number,
  tall: number,
): void {
  context.strokeStyle = sheet.accent
  context.lineWidth = 1.25
  context.beginPath()
  strip.bands.forEach((band, i) => {
    const y = top + tall * (1 - share(live.levels[i], strip.topDb))
    const x = hzToX(band.hz, width)
    if (i === 0) context.moveTo(x, y)
    else context.lineTo(x, y)
  })
  context.stroke()
}

/**
 * Hatches a place like a map: upright where the middle covers it, slanting for the sides, denser where more can be
 * won. Each line has a rim of paper, so that it reads on any ink.
 */
function drawHatch(
  { context, width, sheet }: Surface,
  place: WinnablePlace,
  top: number,
  tall: number,
): void {
  const x0 = Math.round(hzToX(place.fromHz, width)) + 0.5
  const x1 = Math.round(hzToX(place.toHz, width)) - 0.5
  const gap = 15 - 6 * place.weight
  const slant = place.where === 'sides' ? tall : 0
  context.save()
  context.beginPath()
  context.rect(x0, top, x1 - x0, tall)
  context.clip()
  for (const [colour, lineWidth] of [
    [sheet.paper, 3],
    [sheet.ink, 1],
  ] as const) {
    context.strokeStyle = colour
    context.lineWidth = lineWidth
    context.beginPath()
    for (let at = x0 + gap / 2 - slant; at < x1; at += gap) {
      const x = Math.round(at) + 0.5
      context.moveTo(x + slant, top)
      context.lineTo(x, top + tall)
    }
    context.stroke()
  }
  context.restore()
  context.lineWidth = 1
  context.strokeStyle = sheet.ink
  context.strokeRect(x0, top + 0.5, x1 - x0, tall - 1)
}

/**
 * The plumb line through a picture, with the level it reads there, if any; or a mark that was left, dotted.
 * @param againstDb how far the reading stands over that at the mark.
 */
export function drawPlumb(
  { context, width, height, sheet }: Surface,
  hz: number,
  reading: number | null,
  kind: 'plumb' | 'mark' = 'plumb',
  againstDb: number | null = null,
): void {
  const x = Math.round(hzToX(hz, width)) + 0.5
  context.strokeStyle = kind === 'plumb' ? sheet.accent : sheet.inkSoft
  context.lineWidth = 1
  context.setLineDash(kind === 'plumb' ? [4, 3] : [1, 3])
  context.beginPath()
  context.moveTo(x, 0)
  context.lineTo(x, height)
  context.stroke()
  context.setLineDash([])
  if (reading === null) return
  const against = againstDb === null ? '' : ` (${againstDb >= 0 ? '+' : ''}${signed(againstDb)})`
  const text = `${formatDb(reading)}${against}`
  context.font = FIGURE_FONT
  const wide = context.measureText(text).width + 8
  const left = x + 4 + wide > width ? x - 4 - wide : x + 4
  context.fillStyle = sheet.card
  context.fillRect(left, height / 2 - 8, wide, 16)
  context.fillStyle = sheet.accent
  context.textBaseline = 'middle'
  context.textAlign = 'left'
  context.fillText(text, left + 4, height / 2 + 1)
}

/** The band in which a frequency lies, or the nearest at the ends. */
export function bandAt(bands: readonly Band[], hz: number): number {
  const found = bands.findIndex((band) => hz < band.toHz)
  return found < 0 ? bands.length - 1 : found
}
