import { FIGURE_FONT, type Sheet } from '../plot/inks'
import type { Surface } from '../plot/plot'
import { HIGHEST_HZ, PLOT_LEFT, PLOT_RIGHT } from '../plot/ruler'

/** Ranges of frequency that a picture over time has, each as wide on the ruler. */
export const COLUMNS = 480
export const ROWS = 320

/** Levels over time and frequency, and how they become ink. */
export interface SpectrogramPicture {
  /** `ROWS × COLUMNS`, in dB. */
  readonly levels: Float32Array
  /** The same before a chain; what the chain took stands in a second ink. */
  readonly before: Float32Array | null
  /** Edges of the columns, in Hz. */
  readonly edgesHz: Float64Array
  /** Levels this far under the loudest are bare paper, in dB. */
  readonly rangeDb: number
  /** What is added per octave above 1 kHz, in dB. */
  readonly tilt: number
}

/** What was taken by less than this is not shown, in dB; by {@link FULL_TAKEN_DB} it has all its ink. */
const LEAST_TAKEN_DB = 1.5
const FULL_TAKEN_DB = 12

/** The picture as an image of one sheet's ink, to be stretched over the plot. */
export function inkImage(
  { levels, before, edgesHz, rangeDb, tilt }: SpectrogramPicture,
  sheet: Sheet,
): HTMLCanvasElement {
  const canvas = document.createElement('canvas')
  canvas.width = COLUMNS
  canvas.height = ROWS
  const context = canvas.getContext('2d')
  if (!context) return canvas
  const image = context.createImageData(COLUMNS, ROWS)
  const lift = Float32Array.from({ length: COLUMNS }, (_, c) => tilt * Math.log2(edgesHz[c] / 1000))
  const untreated = before ?? levels
  let top = Number.NEGATIVE_INFINITY
  for (let i = 0; i < untreated.length; i++) {
    top = Math.max(top, untreated[i] + lift[i % COLUMNS])
  }
  const density = (db: number) => Math.max(0, Math.min(1, 1 + (db - top) / rangeDb)) ** 1.5
  const [ink, taken] = [rgb(sheet.density), rgb(sheet.warning)]
  for (let i = 0; i < levels.length; i++) {
    const add = lift[i % COLUMNS]
    const lost = before ? before[i] - levels[i] : 0
    const isTaken = lost > LEAST_TAKEN_DB
    // What was taken is as dense as it was, the more of it is gone the more in the second ink.
    const share = isTaken ? Math.min(1, lost / FULL_TAKEN_DB) : 0
    for (let c = 0; c < 3; c++) image.data[4 * i + c] = ink[c] + share * (taken[c] - ink[c])
    image.data[4 * i + 3] = 255 * density((isTaken ? untreated[i] : levels[i]) + add)
  }
  context.putImageData(image, 0, 0)
  return canvas
}

function rgb(colour: string): number[] {
  return [1, 3, 5].map((at) => Number.parseInt(colour.slice(at, at + 2), 16))
}

/** Left, top, right and bottom, as shares of a plot's width and height. */
export type PictureBox = readonly [number, number, number, number]

/**
 * The picture with seconds down its side.
 * @param at where the image lies: beyond the plot where less is looked at than was drawn.
 */
export function drawSpectrogram(
  { context, width, height, sheet }: Surface,
  image: HTMLCanvasElement | null,
  stretch: { readonly fromSeconds: number; readonly toSeconds: number },
  at: PictureBox,
): void {
  if (image) {
    const [left, top, right, bottom] = at
    context.save()
    context.beginPath()
    context.rect(PLOT_LEFT, 0, width - PLOT_LEFT - PLOT_RIGHT, height)
    context.clip()
    context.imageSmoothingEnabled = true
    context.drawImage(
      image,
      left * width,
      top * height,
      (right - left) * width,
      (bottom - top) * height,
    )
    context.restore()
  }
  context.font = FIGURE_FONT
  context.textBaseline = 'middle'
  const { fromSeconds, toSeconds } = stretch
  const step = STEPS.find((s) => (s / (toSeconds - fromSeconds)) * height >= LEAST_PIXELS) ?? 600
  for (let s = Math.ceil(fromSeconds / step) * step; s < toSeconds; s += step) {
    const y = Math.round(((s - fromSeconds) / (toSeconds - fromSeconds)) * height) + 0.5
    context.strokeStyle = sheet.line
    context.beginPath()
    context.moveTo(0, y)
    context.lineTo(PLOT_LEFT - 2, y)
    context.stroke()
  }
}

const STEPS = [0.1, 0.5, 1, 2, 5, 10, 30, 60, 120, 300]
const LEAST_PIXELS = 12
const MOST_HARMONICS = 16

/** What lies over the picture: places in it as shares of its width and height. */
export interface SpectrogramOver {
  readonly hz: number | null
  readonly toX: (hz: number) => number
  /** Where it plays, from the top; null where it does not lie in the picture. */
  readonly played: number | null
  /** The region that was drawn: left, top, right and bottom as shares. */
  readonly region: PictureBox | null
}

/** The plumb line, the harmonics of what it points at, where it plays, and the region. */
export function drawOver(
  { context, width, height, sheet }: Surface,
  { hz, toX, played, region }: SpectrogramOver,
): void {
  context.lineWidth = 1
  if (hz !== null) {
    for (let k = 1; k <= MOST_HARMONICS && k * hz <= HIGHEST_HZ; k++) {
      const x = Math.round(toX(k * hz) * width) + 0.5
      if (x < PLOT_LEFT || x > width - PLOT_RIGHT) continue
      context.strokeStyle = sheet.accent
      context.setLineDash(k === 1 ? [4, 3] : [1, 5])
      context.beginPath()
      context.moveTo(x, 0)
      context.lineTo(x, height)
      context.stroke()
    }
    context.setLineDash([])
  }
  if (region) {
    const [left, top, right, bottom] = region
    context.strokeStyle = sheet.accent
    context.lineWidth = 2
    context.strokeRect(left * width, top * height, (right - left) * width, (bottom - top) * height)
    context.lineWidth = 1
  }
  if (played === null || played < 0 || played > 1) return
  const y = Math.round(played * height) + 0.5
  context.strokeStyle = sheet.warning
  context.beginPath()
  context.moveTo(0, y)
  context.lineTo(width, y)
  context.stroke()
}
