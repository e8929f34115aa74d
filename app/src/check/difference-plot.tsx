import Box from '@mui/material/Box'
import Typography from '@mui/material/Typography'
import { makeBands } from '@sober-prism/core/spectrum'
import { useCallback, useSyncExternalStore } from 'react'
import { formatHzWithNote, signed } from '../format'
import { FIGURE_FONT } from '../plot/inks'
import { Plot, type Surface } from '../plot/plot'
import { plumb, plumbHandlers } from '../plot/plumb'
import { hzToX, PLOT_LEFT, PLOT_RIGHT } from '../plot/ruler'
import { RulerPlot } from '../plot/ruler-plot'
import { bandAt, drawPlumb } from '../plot/strip'

const SIGNALS = [plumb]
const SIXTHS = makeBands('sixth')
/** What the picture reaches up and down to at the least, in dB. */
const LEAST_DB = 3
/** Room for the figure over the highest line. */
const PAD = 16

interface DifferencePlotProps {
  /** Per sixth of an octave, in dB; null where there is nothing to compare. */
  readonly difference: readonly (number | null)[] | null
  /** What the picture is of, and what is said beside it while nothing is pointed at. */
  readonly title: string
  readonly note: string
  readonly label: string
}

/** How far something stands over something else along the ruler. */
export function DifferencePlot({ difference, title, note, label }: DifferencePlotProps) {
  const hz = useSyncExternalStore(plumb.watch, plumb.read)
  const draw = useCallback(
    (surface: Surface) => {
      if (difference) drawDifference(surface, difference)
      if (plumb.value !== null) {
        drawPlumb(surface, plumb.value, difference?.[bandAt(SIXTHS, plumb.value)] ?? null)
      }
    },
    [difference],
  )
  const at = hz === null ? null : (difference?.[bandAt(SIXTHS, hz)] ?? null)
  return (
    <Box
      component="section"
      aria-label={label}
      sx={{ display: 'grid', gridTemplateRows: '28px minmax(90px, 1fr) 46px', minHeight: 0 }}
    >
      <Typography variant="body2" color="textSecondary" noWrap sx={{ p: '4px 12px 0 10px' }}>
        <strong>{title}</strong>{' '}
        {hz === null || at === null
          ? note
          : `${formatHzWithNote(hz)} ${at >= 0 ? '+' : ''}${signed(at)} dB`}
      </Typography>
      <Plot
        style={{ minHeight: 0, cursor: 'crosshair' }}
        draw={draw}
        signals={SIGNALS}
        label={`${title}, level by frequency`}
        {...plumbHandlers}
      />
      <RulerPlot />
    </Box>
  )
}

/** A line from zero, with what lies between in tint. */
function drawDifference(
  { context, width, height, sheet }: Surface,
  difference: readonly (number | null)[],
): void {
  const [high, low] = [Math.max, Math.min].map((of, i) =>
    of(i === 0 ? LEAST_DB : -LEAST_DB, ...difference.map((v) => v ?? 0)),
  )
  const span = high - low
  const step = span > 24 ? 12 : span > 12 ? 6 : 3
  const [top, bottom] = [Math.ceil(high / step) * step, Math.floor(low / step) * step]
  const y = (db: number) => PAD + ((top - db) / (top - bottom)) * (height - 2 * PAD)
  context.lineWidth = 1
  const lines = Array.from({ length: (top - bottom) / step + 1 }, (_, i) => bottom + i * step)
  for (const db of lines) {
    context.strokeStyle = db === 0 ? sheet.lineStrong : sheet.line
    context.beginPath()
    context.moveTo(PLOT_LEFT, Math.round(y(db)) + 0.5)
    context.lineTo(width - PLOT_RIGHT, Math.round(y(db)) + 0.5)
    context.stroke()
  }
  for (const run of runsOf(difference)) {
    const points = run.map((i) => [hzToX(SIXTHS[i].hz, width), y(difference[i] ?? 0)] as const)
    context.beginPath()
    context.moveTo(points[0][0], y(0))
    for (const [px, py] of points) context.lineTo(px, py)
    context.lineTo(points[points.length - 1][0], y(0))
    context.fillStyle = sheet.area
    context.fill()
    context.beginPath()
    points.forEach(([px, py], i) => {
      if (i === 0) context.moveTo(px, py)
      else context.lineTo(px, py)
    })
    context.strokeStyle = sheet.ink
    context.lineWidth = 1.75
    context.stroke()
  }
  context.font = FIGURE_FONT
  context.textBaseline = 'bottom'
  context.textAlign = 'left'
  context.fillStyle = sheet.inkSoft
  for (const db of lines) {
    const text = db === 0 ? '0 dB' : `${db > 0 ? '+' : ''}${signed(db, 0)}`
    context.fillText(text, PLOT_LEFT + 3, y(db) - 1)
  }
}

/** Bands beside each other that are known. */
function runsOf(difference: readonly (number | null)[]): number[][] {
  const runs: number[][] = []
  difference.forEach((v, i) => {
    if (v === null) return
    const last = runs.at(-1)
    if (last?.at(-1) === i - 1) last.push(i)
    else runs.push([i])
  })
  return runs
}
