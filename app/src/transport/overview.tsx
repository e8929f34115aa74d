import { type Passage, sessionFrames } from '@sober-prism/core/session'
import type { Levelled } from '@sober-prism/engine'
import { type KeyboardEvent, type PointerEvent, useCallback, useRef } from 'react'
import { shallowEqual } from 'react-redux'
import { formatTime } from '../format'
import { Plot, type Surface } from '../plot/plot'
import { useAnalysis, useDesk, useSignal } from '../shell/desk-context'
import { openSession } from '../store/selectors'
import { useAppSelector, useEdit } from '../store/store'
import styles from './transport.module.css'
import { usePlace } from './use-place'

const SHORTEST_SECONDS = 1
const STEP_SECONDS = 1
const FINE_SECONDS = 0.1
/** A press that moves less than this is a click: it seeks. */
const CLICK_PIXELS = 4

type Grip = 'from' | 'to'

/** The whole piece as a waveform. A click seeks, a drag chooses a passage, its edges can be moved. */
export function Overview() {
  const { passage, rate, frames } = useAppSelector((root) => {
    const session = openSession(root)
    const { passage, sampleRateHz: rate } = session
    return { passage, rate, frames: Math.max(1, sessionFrames(session)) }
  }, shallowEqual)
  const { overview } = useAnalysis('overview')
  const desk = useDesk()
  const edit = useEdit()
  const place = usePlace()
  const signals = useRef([place.current])
  const press = useRef<{ x: number; frame: number; gesture: string } | null>(null)

  const levelled = useSignal(desk.levelledNow)
  const draw = useCallback(
    (surface: Surface) => {
      drawOverview(surface, overview, passage, frames)
      if (levelled) drawTaken(surface, levelled, frames)
    },
    [overview, passage, frames, levelled],
  )
  // Where it plays moves all the time: it lies over the picture, which stands still.
  const drawPlace = useCallback(
    ({ context, width, height, sheet }: Surface) => {
      context.fillStyle = sheet.warning
      context.fillRect(Math.round((place.current.value / frames) * width) - 0.5, 0, 2, height)
    },
    [frames, place],
  )
  const frameAt = (event: PointerEvent<HTMLElement>, element: HTMLElement) => {
    const box = element.getBoundingClientRect()
    return Math.round(Math.max(0, Math.min(1, (event.clientX - box.left) / box.width)) * frames)
  }
  const choose = (from: number, to: number, gesture: string | undefined) => {
    const low = Math.max(0, Math.min(from, to))
    const high = Math.min(frames, Math.max(from, to, low + SHORTEST_SECONDS * rate))
    edit([{ kind: 'set-session', change: { passage: { fromFrame: low, toFrame: high } } }], {
      gesture,
    })
  }
  const moveEdge = (grip: Grip, frame: number, gesture: string | undefined) => {
    const now = passage ?? { fromFrame: 0, toFrame: frames }
    const gap = SHORTEST_SECONDS * rate
    if (grip === 'from') choose(Math.min(frame, now.toFrame - gap), now.toFrame, gesture)
    else choose(now.fromFrame, Math.max(frame, now.fromFrame + gap), gesture)
  }
  return (
    <div className={styles.overview} data-testid="overview">
      <Plot
        draw={draw}
        label={
          levelled
            ? `Overview of the piece; leveller reduction up to ${Math.abs(Math.min(...levelled.gainsDb)).toFixed(1)} dB`
            : 'Overview of the piece'
        }
        onPointerDown={(event) => {
          if (event.button !== 0) return
          event.currentTarget.setPointerCapture(event.pointerId)
          const frame = frameAt(event, event.currentTarget)
          press.current = { x: event.clientX, frame, gesture: crypto.randomUUID() }
        }}
        onPointerMove={(event) => {
          const held = press.current
          if (!held || Math.abs(event.clientX - held.x) < CLICK_PIXELS) return
          choose(held.frame, frameAt(event, event.currentTarget), held.gesture)
        }}
        onPointerUp={(event) => {
          const held = press.current
          press.current = null
          if (held && Math.abs(event.clientX - held.x) < CLICK_PIXELS) desk.player.seek(held.frame)
        }}
      >
        <Plot className="over" draw={drawPlace} signals={signals.current} />
      </Plot>
      {(['from', 'to'] as const).map((grip) => {
        const frame = passage ? passage[`${grip}Frame`] : grip === 'from' ? 0 : frames
        return (
          <div
            key={grip}
            className={styles.edge}
            role="slider"
            tabIndex={0}
            aria-label={grip === 'from' ? 'Start of the passage' : 'End of the passage'}
            aria-valuemin={0}
            aria-valuemax={Math.round(frames / rate)}
            aria-valuenow={Math.round(frame / rate)}
            aria-valuetext={formatTime(frame / rate)}
            style={{ left: `${(100 * frame) / frames}%` }}
            onPointerDown={(event) => {
              event.stopPropagation()
              event.currentTarget.setPointerCapture(event.pointerId)
              press.current = { x: event.clientX, frame, gesture: crypto.randomUUID() }
            }}
            onPointerMove={(event) => {
              const parent = event.currentTarget.parentElement
              if (press.current && parent) {
                moveEdge(grip, frameAt(event, parent), press.current.gesture)
              }
            }}
            onPointerUp={() => {
              press.current = null
            }}
            onKeyDown={(event: KeyboardEvent) => {
              const seconds = event.shiftKey ? FINE_SECONDS : STEP_SECONDS
              const by = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0
              if (by === 0) return
              event.preventDefault()
              moveEdge(grip, Math.round(frame + by * seconds * rate), `passage ${grip}`)
            }}
          />
        )
      })}
    </div>
  )
}

function drawOverview(
  { context, width, height, sheet }: Surface,
  overview: { low: Float32Array; high: Float32Array } | null,
  passage: Passage | null,
  frames: number,
): void {
  const x = (frame: number) => (frame / frames) * width
  if (overview) {
    const count = overview.low.length
    let peak = 1e-6
    for (let i = 0; i < count; i++) peak = Math.max(peak, overview.high[i], -overview.low[i])
    const scale = (height / 2 - 2) / peak
    const from = passage ? x(passage.fromFrame) : 0
    const to = passage ? x(passage.toFrame) : width
    for (let column = 0; column < width; column++) {
      const bucket = Math.floor((column / width) * count)
      const high = overview.high[bucket] * scale
      const low = overview.low[bucket] * scale
      context.fillStyle = column >= from && column <= to ? sheet.ink : sheet.lineStrong
      context.globalAlpha = column >= from && column <= to ? 0.8 : 0.5
      context.fillRect(column, height / 2 - high, 1, Math.max(1, high - low))
    }
    context.globalAlpha = 1
  }
  if (passage)
    drawBrackets({ context, height, ink: sheet.accent }, x(passage.fromFrame), x(passage.toFrame))
}

/** All the height stands for so much that is taken, in dB. */
const TAKEN_RANGE_DB = 12

/** What a leveller takes over time, hanging from the top. */
function drawTaken(
  { context, width, height, sheet }: Surface,
  { gainsDb, stretch }: Levelled,
  frames: number,
): void {
  const x = (column: number) =>
    ((stretch.fromFrame + (column / gainsDb.length) * (stretch.toFrame - stretch.fromFrame)) /
      frames) *
    width
  context.strokeStyle = sheet.accent
  context.lineWidth = 1.5
  context.beginPath()
  for (let i = 0; i < gainsDb.length; i++) {
    context.lineTo(x(i + 0.5), 1 + (-gainsDb[i] / TAKEN_RANGE_DB) * (height - 2))
  }
  context.stroke()
}

function drawBrackets(
  { context, height, ink }: { context: CanvasRenderingContext2D; height: number; ink: string },
  from: number,
  to: number,
): void {
  context.strokeStyle = ink
  context.lineWidth = 2
  context.beginPath()
  for (const [x, inward] of [
    [from + 1, 6],
    [to - 1, -6],
  ]) {
    context.moveTo(x + inward, 1)
    context.lineTo(x, 1)
    context.lineTo(x, height - 1)
    context.lineTo(x + inward, height - 1)
  }
  context.stroke()
}
