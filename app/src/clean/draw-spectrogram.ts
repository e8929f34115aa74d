import { FIGURE_FONT, type Sheet } from '../plot/inks'
import type { Surface } from '../plot/plot'
import { HIGHEST_HZ, hzToX, LOWEST_HZ, PLOT_LEFT, PLOT_RIGHT } from '../plot/ruler'

/** Ranges of frequency that a picture over time has, each as wide on the ruler. */
export const COLUMNS = 480
export const ROWS = 320

/** Edges of the ranges, in Hz. */
export const EDGES_HZ = Float64Array.from(
  { length: COLUMNS + 1 },
  (_, i) => LOWEST_HZ * (HIGHEST_HZ / LOWEST_HZ) ** (i / COLUMNS),
)

/** Levels over time and frequency, and how they become ink. */
export interface SpectrogramPicture {
  /** `ROWS × COLUMNS`, in dB. */
  readonly levels: Float32Array
  /** Levels this far under the loudest are bare paper, in dB. */
  readonly rangeDb: number
  /** What is added per octave above 1 kHz, in dB. */
  readonly tilt: number
}

/** The picture as an image of one sheet's ink, to be stretched over the plot. */
export function inkImage(
  { levels, rangeDb, tilt }: SpectrogramPicture,
  sheet: Sheet,
): HTMLCanvasElement {
  const canvas = document.createElement('canvas')
  canvas.width = COLUMNS
  canvas.height = ROWS
  const context = canvas.getContext('2d')
  if (!context) return canvas
  const image = context.createImageData(COLUMNS, ROWS)
  const lift = Float32Array.from(
    { length: COLUMNS },
    (_, c) => tilt * Math.log2(EDGES_HZ[c] / 1000),
  )
  let top = Number.NEGATIVE_INFINITY
  for (let i = 0; i < levels.length; i++) top = Math.max(top, levels[i] + lift[i % COLUMNS])
  const [red, green, blue] = [1, 3, 5].map((at) =>
    Number.parseInt(sheet.density.slice(at, at + 2), 16),
  )
  for (let i = 0; i < levels.length; i++) {
    const share = 1 + (levels[i] + lift[i % COLUMNS] - top) / rangeDb
    const at = 4 * i
    image.data[at] = red
    image.data[at + 1] = green
    image.data[at + 2] = blue
    image.data[at + 3] = 255 * Math.max(0, Math.min(1, share)) ** 1.5
  }
  context.putImageData(image, 0, 0)
  return canvas
}

/** The picture on the ruler, with seconds down its side. */
export function drawSpectrogram(
  { context, width, height, sheet }: Surface,
  image: HTMLCanvasElement | null,
  stretch: { readonly fromSeconds: number; readonly toSeconds: number },
): void {
  if (image) {
    context.imageSmoothingEnabled = true
    context.drawImage(image, PLOT_LEFT, 0, width - PLOT_LEFT - PLOT_RIGHT, height)
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

/** The plumb line, the harmonics of what it points at, and where it plays. */
export function drawOver(
  { context, width, height, sheet }: Surface,
  hz: number | null,
  playedShare: number | null,
): void {
  context.lineWidth = 1
  if (hz !== null) {
    for (let k = 1; k <= MOST_HARMONICS && k * hz <= HIGHEST_HZ; k++) {
      const x = Math.round(hzToX(k * hz, width)) + 0.5
      context.strokeStyle = sheet.accent
      context.setLineDash(k === 1 ? [4, 3] : [1, 5])
      context.beginPath()
      context.moveTo(x, 0)
      context.lineTo(x, height)
      context.stroke()
    }
    context.setLineDash([])
  }
  if (playedShare === null || playedShare < 0 || playedShare > 1) return
  const y = Math.round(playedShare * height) + 0.5
  context.strokeStyle = sheet.warning
  context.beginPath()
  context.moveTo(0, y)
  context.lineTo(width, y)
  context.stroke()
}
