import ButtonBase from '@mui/material/ButtonBase'
import {
  type KeyboardEvent,
  type PointerEvent,
  useEffect,
  useRef,
  useSyncExternalStore,
} from 'react'
import { WORDS } from '../controls/words'
import { formatHz, formatHzWithNote } from '../format'
import { FIGURE_FONT } from './inks'
import { Plot, type Surface } from './plot'
import { leaveMark, plumb, plumbHandlers, plumbMark } from './plumb'
import {
  figuresIn,
  HIGHEST_HZ,
  hzToX,
  isLookedAt,
  LOWEST_HZ,
  movedSpan,
  PLOT_LEFT,
  PLOT_RIGHT,
  prismColour,
  type RulerSpan,
  rulerSpan,
  ticksIn,
  useRulerSpan,
  WHOLE_RULER,
  xToHz,
  zoomedSpan,
} from './ruler'

const SIGNALS = [plumb, plumbMark]
/** So many that hues between them do not grey. */
const PRISM_STOPS = 36
const SEMITONE = 2 ** (1 / 12)
const ZOOM = 1.25
/** A press that moves less than this, in pixels, is a click. */
const CLICK_PIXELS = 4

/** What keys make of the part that is looked at: about the plumb line, where it stands. */
const SPAN_KEYS: Readonly<Record<string, (span: RulerSpan, hz: number | null) => RulerSpan>> = {
  '+': (span, hz) => zoomedSpan(span, 1 / ZOOM, hz ?? undefined),
  '=': (span, hz) => zoomedSpan(span, 1 / ZOOM, hz ?? undefined),
  '-': (span, hz) => zoomedSpan(span, ZOOM, hz ?? undefined),
}

/** Where keys carry the plumb line; null takes it away. */
const PLUMB_KEYS: Readonly<Record<string, (hz: number, step: number) => number | null>> = {
  ArrowRight: (hz, step) => hz * step,
  ArrowUp: (hz, step) => hz * step,
  ArrowLeft: (hz, step) => hz / step,
  ArrowDown: (hz, step) => hz / step,
  PageUp: (hz) => hz * 2,
  PageDown: (hz) => hz / 2,
  Escape: () => null,
}

/**
 * The ruler: prism, ticks and figures. With the keyboard it carries the plumb line; the wheel zooms into a part of it, on
 * all pictures at once, and dragging moves that part along.
 */
export function RulerPlot({ reading }: { reading?: (hz: number) => string }) {
  const hz = useSyncExternalStore(plumb.watch, plumb.read)
  const span = useRulerSpan()
  const isWhole = span === WHOLE_RULER
  const box = useRef<HTMLDivElement>(null)
  const { handlers, wasDragged } = useSpanDrag()
  useEffect(() => {
    const element = box.current
    const onWheel = (event: WheelEvent) => {
      const delta = event.deltaY || event.deltaX
      if (delta === 0 || !element) return
      event.preventDefault()
      const { left, width } = element.getBoundingClientRect()
      const about = xToHz(event.clientX - left, width)
      rulerSpan.set(zoomedSpan(rulerSpan.value, delta < 0 ? 1 / ZOOM : ZOOM, about))
    }
    // A listener of React's own would be passive, and what lies around the ruler would scroll besides.
    element?.addEventListener('wheel', onWheel, { passive: false })
    return () => element?.removeEventListener('wheel', onWheel)
  }, [])
  const onKeyDown = (event: KeyboardEvent) => {
    const { key, shiftKey } = event
    if (key !== 'Enter' && !SPAN_KEYS[key] && !PLUMB_KEYS[key]) return
    event.preventDefault()
    if (key === 'Enter') return leaveMark()
    if (SPAN_KEYS[key]) return rulerSpan.set(SPAN_KEYS[key](rulerSpan.value, hz))
    // The first press takes the plumb line away, the second shows the whole ruler again.
    if (key === 'Escape' && hz === null) return rulerSpan.set(WHOLE_RULER)
    const { lowHz, highHz } = rulerSpan.value
    const now = hz ?? (isWhole ? 1000 : Math.sqrt(lowHz * highHz))
    const next = PLUMB_KEYS[key](now, shiftKey ? SEMITONE ** 0.1 : SEMITONE)
    if (next === null) return plumb.set(null)
    const to = Math.max(LOWEST_HZ, Math.min(HIGHEST_HZ, next))
    plumb.set(to)
    // The part that is looked at goes along.
    const over = Math.max(0, Math.log2(to / highHz)) - Math.max(0, Math.log2(lowHz / to))
    if (over !== 0) rulerSpan.set(movedSpan(rulerSpan.value, over))
  }
  const text =
    hz === null ? 'not set' : `${formatHzWithNote(hz)}${reading ? `, ${reading(hz)}` : ''}`
  return (
    <div ref={box} className="plot">
      <Plot
        style={{ position: 'absolute', inset: 0, touchAction: 'none' }}
        draw={drawRuler}
        role="slider"
        tabIndex={0}
        aria-label="Plumb line, frequency"
        aria-valuemin={LOWEST_HZ}
        aria-valuemax={HIGHEST_HZ}
        aria-valuenow={Math.round(hz ?? 1000)}
        aria-valuetext={text}
        title={`Plumb line: ${WORDS['plumb line']}. Click to keep the reading as a mark; wheel to zoom.`}
        onClick={() => {
          if (!wasDragged()) leaveMark()
        }}
        onDoubleClick={() => rulerSpan.set(WHOLE_RULER)}
        onKeyDown={onKeyDown}
        {...handlers}
      >
        <Plot className="over" draw={drawPlumbFigure} signals={SIGNALS} />
      </Plot>
      {!isWhole && (
        <ButtonBase
          aria-label={`Show the whole ruler: now ${formatHz(span.lowHz)} to ${formatHz(span.highHz)}`}
          title="Show the whole ruler"
          onClick={() => rulerSpan.set(WHOLE_RULER)}
          sx={{
            position: 'absolute',
            right: PLOT_RIGHT,
            bottom: 1,
            height: WHOLE_PIXELS.high,
            width: WHOLE_PIXELS.wide,
            typography: 'body2',
            color: 'primary.main',
            bgcolor: 'background.default',
          }}
        >
          Whole ruler
        </ButtonBase>
      )}
    </div>
  )
}

/** Room of the button that shows the whole ruler, below its figures. */
const WHOLE_PIXELS = { wide: 84, high: 18 }
/** A ruler this high has room for the button under its figures. */
const ROOM_BELOW = 46

/** Dragging the ruler moves the part that is looked at; pointing at it moves the plumb line. */
function useSpanDrag() {
  const grip = useRef<{ x: number; span: RulerSpan; dragged: boolean } | null>(null)
  const last = useRef(false)
  return {
    wasDragged: () => last.current,
    handlers: {
      ...plumbHandlers,
      onPointerDown(event: PointerEvent<HTMLElement>) {
        last.current = false
        if (event.button !== 0) return
        grip.current = { x: event.clientX, span: rulerSpan.value, dragged: false }
        event.currentTarget.setPointerCapture(event.pointerId)
      },
      onPointerMove(event: PointerEvent<HTMLElement>) {
        plumbHandlers.onPointerMove(event)
        const held = grip.current
        if (!held || held.span === WHOLE_RULER) return
        const by = event.clientX - held.x
        held.dragged ||= Math.abs(by) >= CLICK_PIXELS
        if (!held.dragged) return
        const wide = event.currentTarget.clientWidth - PLOT_LEFT - PLOT_RIGHT
        const octaves = Math.log2(held.span.highHz / held.span.lowHz)
        rulerSpan.set(movedSpan(held.span, (-by / wide) * octaves))
      },
      onPointerUp() {
        last.current = grip.current?.dragged ?? false
        grip.current = null
      },
      onPointerCancel() {
        grip.current = null
      },
    },
  }
}

function drawRuler({ context, width, height, sheet, night }: Surface): void {
  const left = PLOT_LEFT
  const right = width - PLOT_RIGHT
  const prism = context.createLinearGradient(left, 0, right, 0)
  for (let stop = 0; stop <= PRISM_STOPS; stop++) {
    const hz = xToHz(left + (stop / PRISM_STOPS) * (right - left), width)
    const share = Math.log(hz / LOWEST_HZ) / Math.log(HIGHEST_HZ / LOWEST_HZ)
    prism.addColorStop(stop / PRISM_STOPS, prismColour(share, night))
  }
  context.fillStyle = prism
  context.fillRect(left, 4, right - left, 4)
  context.font = FIGURE_FONT
  const span = rulerSpan.value
  // In a low ruler the button that shows the whole of it stands beside the figures.
  const taken = span === WHOLE_RULER || height >= ROOM_BELOW ? 0 : WHOLE_PIXELS.wide
  const figures = figuresIn(width, (t) => context.measureText(t).width, span, taken)
  context.strokeStyle = sheet.inkSoft
  context.lineWidth = 1
  context.beginPath()
  for (const hz of ticksIn(span)) {
    const x = Math.round(hzToX(hz, width)) + 0.5
    context.moveTo(x, 8)
    context.lineTo(x, figures.some((f) => f.hz === hz) ? 14 : 11)
  }
  context.stroke()
  context.fillStyle = sheet.ink
  context.textBaseline = 'alphabetic'
  for (const { text, x, align } of figures) {
    context.textAlign = align
    context.fillText(text, x, 26)
  }
}

/** The plumb line's frequency, and where the mark was left: over the ruler, which stands still. */
function drawPlumbFigure({ context, width, height, sheet }: Surface): void {
  if (plumbMark.value !== null && isLookedAt(plumbMark.value)) {
    const x = Math.round(hzToX(plumbMark.value, width))
    context.fillStyle = sheet.inkSoft
    context.fillRect(x - 3, 0, 7, 4)
  }
  const hz = plumb.value
  if (hz === null || !isLookedAt(hz)) return
  const text = formatHzWithNote(hz)
  const x = hzToX(hz, width)
  context.font = FIGURE_FONT
  context.textBaseline = 'alphabetic'
  const wide = context.measureText(text).width + 14
  // The button beside it stays to be read.
  const whole = rulerSpan.value === WHOLE_RULER ? 0 : WHOLE_PIXELS.wide + 6
  const most = width - PLOT_RIGHT - whole
  const at = Math.max(PLOT_LEFT, Math.min(most - wide, x - wide / 2))
  context.fillStyle = sheet.accent
  context.fillRect(at, height - 18, wide, 17)
  context.fillStyle = sheet.onAccent
  context.textAlign = 'left'
  context.fillText(text, at + 7, height - 5)
}
