import { signed } from '../../format'
import { FIGURE_FONT, type Sheet } from '../../plot/inks'
import type { Surface } from '../../plot/plot'
import { hzToX, PLOT_LEFT, PLOT_RIGHT } from '../../plot/ruler'

/** How a line is drawn: what is so now, what would be otherwise, what was measured. */
type LineStyle = 'now' | 'other' | 'further' | 'measured'

export interface DrawnLine {
  readonly style: LineStyle
  readonly values: ArrayLike<number>
  /** Where each value stands across the picture: in Hz on the ruler, or in ms from `from` to `to`. */
  readonly at: ArrayLike<number>
}

/** A picture below the sheet: lines over the ruler, or over a span of time. */
export interface ReadingPicture {
  readonly lines: readonly DrawnLine[]
  /** Lowest and highest value. */
  readonly span: readonly [number, number]
  readonly unit: string
  /** Time across the picture, in ms; null for the ruler. */
  readonly time: readonly [number, number] | null
}

const TOP = 8
const STEPS = [1, 2, 2.5, 5, 10]
const LINE_PIXELS = 26
const TIME_PIXELS = 70

/** A round step with which a span has at most so many lines. */
function roundStep(span: number, most: number): number {
  const rough = span / Math.max(1, most)
  const decade = 10 ** Math.floor(Math.log10(rough))
  return decade * (STEPS.find((s) => s * decade >= rough) ?? 10)
}

/** So many decimals tell steps of this size apart as they are: one for 2.5. */
export function decimalsOf(step: number): number {
  let decimals = 0
  while (decimals < 3 && Math.abs(Number(step.toFixed(decimals)) - step) > step / 1000) decimals++
  return decimals
}

/** The lowest and highest of lines, with a little room, and no less than `least` apart. */
export function spanOfLines(lines: readonly DrawnLine[], least: number): [number, number] {
  let [low, high] = [0, 0]
  for (const { values } of lines) {
    for (let i = 0; i < values.length; i++) {
      low = Math.min(low, values[i])
      high = Math.max(high, values[i])
    }
  }
  const room = Math.max(0, least - (high - low)) / 2 + 0.05 * Math.max(least, high - low)
  return [low - room, high + room]
}

export function drawReading(surface: Surface, picture: ReadingPicture): void {
  const { context, width, height, sheet } = surface
  const { span, unit, time, lines } = picture
  const bottom = time ? height - 18 : height - 4
  const [low, high] = span
  const toY = (value: number) => TOP + ((high - value) / (high - low)) * (bottom - TOP)
  const toX = (at: number) =>
    time
      ? PLOT_LEFT + ((at - time[0]) / (time[1] - time[0])) * (width - PLOT_LEFT - PLOT_RIGHT)
      : hzToX(at, width)
  context.font = FIGURE_FONT
  context.lineWidth = 1
  const step = roundStep(high - low, (bottom - TOP) / LINE_PIXELS)
  const decimals = decimalsOf(step)
  for (let value = Math.ceil(low / step) * step; value <= high; value += step) {
    const y = Math.round(toY(value)) + 0.5
    const isZero = Math.abs(value) < step / 1000
    rule(context, isZero ? sheet.lineStrong : sheet.line, [PLOT_LEFT, y], [width - PLOT_RIGHT, y])
    context.fillStyle = sheet.inkSoft
    context.textAlign = 'left'
    context.textBaseline = 'bottom'
    context.fillText(`${signed(value, decimals)}${isZero ? ` ${unit}` : ''}`, PLOT_LEFT + 3, y - 1)
  }
  if (time) drawTimes(surface, time, toX, bottom)
  context.save()
  context.beginPath()
  context.rect(PLOT_LEFT, 0, width - PLOT_LEFT - PLOT_RIGHT, bottom)
  context.clip()
  for (const line of lines) {
    pen(context, sheet, line.style)
    context.beginPath()
    for (let i = 0; i < line.values.length; i++) {
      const y = Math.max(-height, Math.min(2 * height, toY(line.values[i])))
      if (i === 0) context.moveTo(toX(line.at[i]), y)
      else context.lineTo(toX(line.at[i]), y)
    }
    context.stroke()
  }
  context.restore()
}

function drawTimes(
  { context, width, height, sheet }: Surface,
  time: readonly [number, number],
  toX: (ms: number) => number,
  bottom: number,
): void {
  const step = roundStep(time[1] - time[0], width / TIME_PIXELS)
  const decimals = decimalsOf(step)
  const inSeconds = step >= 1000
  context.textBaseline = 'alphabetic'
  for (let ms = Math.ceil(time[0] / step) * step; ms <= time[1]; ms += step) {
    const x = Math.round(toX(ms)) + 0.5
    rule(context, sheet.line, [x, TOP], [x, bottom])
    const text = inSeconds ? `${signed(ms / 1000, 0)} s` : `${signed(ms, decimals)} ms`
    context.textAlign = x < PLOT_LEFT + TIME_PIXELS / 4 ? 'left' : 'center'
    context.fillText(text, x, height - 4)
  }
}

function pen(context: CanvasRenderingContext2D, sheet: Sheet, style: LineStyle): void {
  context.strokeStyle =
    style === 'now' ? sheet.accent : style === 'measured' ? sheet.ink : sheet.inkSoft
  context.lineWidth = style === 'now' ? 2 : 1.25
  context.setLineDash(
    style === 'other' ? [6, 4] : style === 'further' || style === 'measured' ? [1.5, 3] : [],
  )
}

type Point = readonly [number, number]

function rule(context: CanvasRenderingContext2D, ink: string, from: Point, to: Point): void {
  context.strokeStyle = ink
  context.lineWidth = 1
  context.setLineDash([])
  context.beginPath()
  context.moveTo(...from)
  context.lineTo(...to)
  context.stroke()
}
