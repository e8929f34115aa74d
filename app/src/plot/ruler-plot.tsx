import { type KeyboardEvent, useSyncExternalStore } from 'react'
import { WORDS } from '../controls/words'
import { formatHzWithNote } from '../format'
import { FIGURE_FONT } from './inks'
import { Plot, type Surface } from './plot'
import { leaveMark, plumb, plumbHandlers, plumbMark } from './plumb'
import {
  FIGURES,
  figuresIn,
  HIGHEST_HZ,
  hzToX,
  LOWEST_HZ,
  PLOT_LEFT,
  PLOT_RIGHT,
  prismColour,
  TICKS,
} from './ruler'

const SIGNALS = [plumb, plumbMark]
/** So many that hues between them do not grey. */
const PRISM_STOPS = 36
const SEMITONE = 2 ** (1 / 12)

/** The ruler: prism, ticks and figures. With the keyboard it carries the plumb line. */
export function RulerPlot({ reading }: { reading?: (hz: number) => string }) {
  const hz = useSyncExternalStore(plumb.watch, plumb.read)
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key === 'Enter') {
      event.preventDefault()
      return leaveMark()
    }
    const step = event.shiftKey ? SEMITONE ** 0.1 : SEMITONE
    const now = hz ?? 1000
    const next =
      event.key === 'ArrowRight' || event.key === 'ArrowUp'
        ? now * step
        : event.key === 'ArrowLeft' || event.key === 'ArrowDown'
          ? now / step
          : event.key === 'PageUp'
            ? now * 2
            : event.key === 'PageDown'
              ? now / 2
              : event.key === 'Escape'
                ? null
                : undefined
    if (next === undefined) return
    event.preventDefault()
    plumb.set(next === null ? null : Math.max(LOWEST_HZ, Math.min(HIGHEST_HZ, next)))
  }
  const text =
    hz === null ? 'not set' : `${formatHzWithNote(hz)}${reading ? `, ${reading(hz)}` : ''}`
  return (
    <Plot
      className="ruler"
      draw={drawRuler}
      role="slider"
      tabIndex={0}
      aria-label="Plumb line, frequency"
      aria-valuemin={LOWEST_HZ}
      aria-valuemax={HIGHEST_HZ}
      aria-valuenow={Math.round(hz ?? 1000)}
      aria-valuetext={text}
      title={`Plumb line: ${WORDS['plumb line']}. Click to keep the reading as a mark.`}
      onClick={leaveMark}
      onKeyDown={onKeyDown}
      {...plumbHandlers}
    >
      <Plot className="over" draw={drawPlumbFigure} signals={SIGNALS} />
    </Plot>
  )
}

function drawRuler({ context, width, sheet, night }: Surface): void {
  const left = PLOT_LEFT
  const right = width - PLOT_RIGHT
  const prism = context.createLinearGradient(left, 0, right, 0)
  for (let stop = 0; stop <= PRISM_STOPS; stop++)
    prism.addColorStop(stop / PRISM_STOPS, prismColour(stop / PRISM_STOPS, night))
  context.fillStyle = prism
  context.fillRect(left, 4, right - left, 4)
  context.strokeStyle = sheet.inkSoft
  context.lineWidth = 1
  context.beginPath()
  for (const hz of TICKS) {
    const x = Math.round(hzToX(hz, width)) + 0.5
    context.moveTo(x, 8)
    context.lineTo(x, FIGURES.some(([f]) => f === hz) ? 14 : 11)
  }
  context.stroke()
  context.font = FIGURE_FONT
  context.fillStyle = sheet.ink
  context.textBaseline = 'alphabetic'
  for (const { text, x, align } of figuresIn(width, (t) => context.measureText(t).width)) {
    context.textAlign = align
    context.fillText(text, x, 26)
  }
}

/** The plumb line's frequency, and where the mark was left: over the ruler, which stands still. */
function drawPlumbFigure({ context, width, height, sheet }: Surface): void {
  if (plumbMark.value !== null) {
    const x = Math.round(hzToX(plumbMark.value, width))
    context.fillStyle = sheet.inkSoft
    context.fillRect(x - 3, 0, 7, 4)
  }
  const hz = plumb.value
  if (hz === null) return
  const text = formatHzWithNote(hz)
  const x = hzToX(hz, width)
  context.font = FIGURE_FONT
  context.textBaseline = 'alphabetic'
  const wide = context.measureText(text).width + 14
  const at = Math.max(PLOT_LEFT, Math.min(width - PLOT_RIGHT - wide, x - wide / 2))
  context.fillStyle = sheet.accent
  context.fillRect(at, height - 18, wide, 17)
  context.fillStyle = sheet.onAccent
  context.textAlign = 'left'
  context.fillText(text, at + 7, height - 5)
}
