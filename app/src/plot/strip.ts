import type { CoveredRegion } from '@sober-prism/core/findings'
import type { Band } from '@sober-prism/core/spectrum'
import { formatDb } from '../format'
import type { Surface } from './plot'
import { hzToX } from './ruler'
import { FIGURE_FONT } from './sheet'

/** Levels from faintest to full ink, in dB. */
const DENSITY_RANGE_DB = 54
const FULL_DENSITY = 0.86
const METER_FLOOR_DB = -60

/** What one strip shows; levels in dB per band. */
export interface StripPicture {
  readonly bands: readonly Band[]
  readonly levels: ArrayLike<number> | null
  /** Level of full ink. */
  readonly topDb: number
  readonly covered: readonly CoveredRegion[]
}

/** What is sounding in a strip now. */
export interface StripLive {
  readonly levels: ArrayLike<number>
  readonly peakDb: number
}

const PAD = 2

/** Draws long-term level as ink density, live level as a line of ink, and hatches covered regions. */
export function drawStrip(surface: Surface, strip: StripPicture, live: StripLive | null): void {
  const { context, width, height, sheet } = surface
  const top = PAD
  const tall = height - 2 * PAD
  context.fillStyle = sheet.density
  if (strip.levels) {
    strip.bands.forEach((band, i) => {
      const x0 = Math.round(hzToX(Math.max(20, band.fromHz), width))
      const x1 = Math.round(hzToX(Math.min(20000, band.toHz), width))
      context.globalAlpha = FULL_DENSITY * density(strip.levels?.[i] ?? -200, strip.topDb)
      context.fillRect(x0, top, x1 - x0, tall)
    })
    context.globalAlpha = 1
  }
  for (const region of strip.covered) drawHatch(surface, region, top, tall)
  if (live) drawLive(surface, strip, live, top, tall)
}

/** Level to ink, 0 to 1: a little steeper than straight, so that peaks stand out. */
function density(db: number, topDb: number): number {
  const share = (db - topDb + DENSITY_RANGE_DB) / DENSITY_RANGE_DB
  return Math.max(0, Math.min(1, share)) ** 1.5
}

function drawLive(
  { context, width, sheet }: Surface,
  strip: StripPicture,
  live: StripLive,
  top: number,
  tall: number,
): void {
  context.fillStyle = sheet.accent
  const meter = Math.max(0, 1 - live.peakDb / METER_FLOOR_DB)
  context.fillRect(2, top + tall * (1 - meter), 3, tall * meter)
  context.strokeStyle = sheet.accent
  context.lineWidth = 1.25
  context.beginPath()
  strip.bands.forEach((band, i) => {
    const share = (live.levels[i] - strip.topDb + DENSITY_RANGE_DB) / DENSITY_RANGE_DB
    const y = top + tall * (1 - Math.max(0, Math.min(1, share)))
    const x = hzToX(band.hz, width)
    if (i === 0) context.moveTo(x, y)
    else context.lineTo(x, y)
  })
  context.stroke()
}

/**
 * Hatches a covered region like a map: upright for the middle, slanting for the sides, denser where more
 * is lost. Each line has a rim of paper, so that it reads on any ink.
 */
function drawHatch(
  { context, width, sheet }: Surface,
  region: CoveredRegion,
  top: number,
  tall: number,
): void {
  const x0 = Math.round(hzToX(region.fromHz, width)) + 0.5
  const x1 = Math.round(hzToX(region.toHz, width)) - 0.5
  const gap = 12 - 7 * Math.max(0, Math.min(1, (region.lostShare - 0.75) / 0.25))
  const slant = region.where === 'sides' ? tall : 0
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
    for (let x = x0 + gap / 2 - slant; x < x1; x += gap) {
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

/** The plumb line through a picture, with the level it reads there, if any. */
export function drawPlumb(
  { context, width, height, sheet }: Surface,
  hz: number,
  reading: number | null,
): void {
  const x = Math.round(hzToX(hz, width)) + 0.5
  context.strokeStyle = sheet.accent
  context.lineWidth = 1
  context.setLineDash([4, 3])
  context.beginPath()
  context.moveTo(x, 0)
  context.lineTo(x, height)
  context.stroke()
  context.setLineDash([])
  if (reading === null) return
  const text = formatDb(reading)
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
