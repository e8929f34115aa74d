import { LOW_END_BANDS, type LowEndReading } from '@sober-prism/core/findings'
import { FIGURE_FONT } from '../../plot/inks'
import type { Surface } from '../../plot/plot'
import { PLOT_LEFT, PLOT_RIGHT } from '../../plot/ruler'

const GAP = 8
/** Room for the names of the bands. */
const NAMES = 34

/** Two lanes over time, a row for each octave from the low ones up; the denser the ink, the less alike left and right. */
export function drawLowEnd(
  surface: Surface,
  { before, after }: { readonly before: LowEndReading; readonly after: LowEndReading },
): void {
  const tall = (surface.height - 3 * GAP) / 2
  drawLane(surface, before, GAP, tall)
  drawLane(surface, after, 2 * GAP + tall, tall)
}

function drawLane(
  { context, width, sheet }: Surface,
  { columns, correlation }: LowEndReading,
  top: number,
  tall: number,
): void {
  const bands = LOW_END_BANDS.length
  const [left, right] = [PLOT_LEFT + NAMES, width - PLOT_RIGHT]
  const row = tall / bands
  const wide = (right - left) / columns
  context.fillStyle = sheet.ink
  for (let c = 0; c < columns; c++) {
    for (let b = 0; b < bands; b++) {
      const value = correlation[c * bands + b]
      if (Number.isNaN(value)) continue
      context.globalAlpha = (1 - value) / 2
      context.fillRect(left + c * wide, top + (bands - 1 - b) * row, wide + 0.5, row)
    }
  }
  context.globalAlpha = 1
  context.strokeStyle = sheet.line
  context.lineWidth = 1
  context.strokeRect(left + 0.5, top + 0.5, right - left - 1, tall - 1)
  context.font = FIGURE_FONT
  context.fillStyle = sheet.inkSoft
  context.textAlign = 'right'
  context.textBaseline = 'top'
  context.fillText(`${LOW_END_BANDS[bands - 1][1]}`, left - 4, top)
  context.textBaseline = 'bottom'
  context.fillText(`${LOW_END_BANDS[0][0]}`, left - 4, top + tall)
}
