import { type EqBand, hasGain, hasQ, qFromEdge } from '@sober-prism/core/filters'
import type { ChainBand } from '@sober-prism/core/treatments'
import { type KeyboardEvent, type PointerEvent, useRef, type WheelEvent } from 'react'
import { type ContextItem, useContextMenu } from '../../controls/context-menu'
import { formatHz, signed } from '../../format'
import { useHear } from '../../shell/use-hear'
import { store } from '../../store/store'
import { copyBands, pasteBands } from '../bands/band-clipboard'
import type { BandEditing } from '../bands/use-bands'
import { TYPE_NAMES } from '../names'
import styles from '../sheet.module.css'
import { type SheetScale, toHz, yToDb } from '../sheet-scale'
import { BRACKET_Y, FLAG_HEIGHT, FLAG_WIDTH, type SurveyMark } from './survey-mark'

interface HandleProps {
  readonly node: string
  readonly mark: SurveyMark
  readonly move: ChainBand
  readonly scale: SheetScale
  readonly editing: BandEditing
  readonly chosen: boolean
  /** @param too besides those that are chosen already */
  readonly onChoose: (too: boolean) => void
}

/** Arrow keys: a twelfth of an octave, half a decibel, an eighth of Q; with Shift a tenth of that. */
const STEP_RATIO = 2 ** (1 / 12)
const STEP_DB = 0.5
const STEP_Q = 1.125

/** What can be grabbed of a survey mark: the flag (place and gain) and the bracket's ends (width). */
export function MarkHandles(props: HandleProps) {
  const { node, mark, move: own, scale, editing, chosen, onChoose } = props
  // One of several that is pressed is moved with the others.
  const choose = (event: PointerEvent) => {
    const too = event.ctrlKey || event.metaKey
    if (too || !chosen) onChoose(too)
  }
  const drag = useDrag(choose, (x, y, gesture) => {
    const change: Partial<EqBand> = { hz: round(toHz(x, scale), 3) }
    if (hasGain(own.band.type)) change.db = Math.round(yToDb(y, scale) * 10) / 10
    editing.change(own, change, gesture)
  })
  const width = useDrag(choose, (x, _, gesture) => {
    editing.change(own, { q: round(qFromEdge(own.band.hz, toHz(x, scale)), 3) }, gesture)
  })
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key === 'Delete' || event.key === 'Backspace') {
      event.preventDefault()
      editing.remove(own)
      return
    }
    if (event.key === 'Escape') return onChoose(false)
    if (event.key === ' ' && event.ctrlKey) {
      event.preventDefault()
      event.stopPropagation()
      return onChoose(true)
    }
    const change = nudge(own.band, event.key, event.shiftKey)
    if (!change) return
    event.preventDefault()
    editing.change(own, change, `nudge ${own.id} ${Object.keys(change)[0]}`)
  }
  const { onContextMenu, menu } = useMarkMenu(node, own, editing)
  /** The wheel makes it narrower and wider; with Alt it moves the gain. */
  const onWheel = (event: WheelEvent) => {
    if (event.ctrlKey || event.metaKey) return
    const up = event.deltaY + event.deltaX < 0
    const key = event.altKey ? (up ? 'ArrowUp' : 'ArrowDown') : up ? 'PageUp' : 'PageDown'
    const change = nudge(own.band, key, event.shiftKey)
    if (change) editing.change(own, change, `wheel ${own.id} ${Object.keys(change)[0]}`)
  }
  return (
    <>
      <div
        className={styles.handle}
        data-kind="flag"
        role="slider"
        tabIndex={0}
        aria-label={`Band ${mark.letter}`}
        aria-valuenow={Math.round(own.band.hz)}
        aria-valuemin={20}
        aria-valuemax={20000}
        aria-valuetext={describeBand(own)}
        data-chosen={chosen}
        style={{
          left: mark.x - 6,
          top: mark.flagY - FLAG_HEIGHT - 3,
          width: FLAG_WIDTH + 8,
          height: Math.max(FLAG_HEIGHT + 8, mark.curveY - mark.flagY + FLAG_HEIGHT + 10),
        }}
        onFocus={(event) => {
          // A press chooses by itself.
          if (!chosen && event.target.matches(':focus-visible')) onChoose(false)
        }}
        onKeyDown={onKeyDown}
        onWheel={onWheel}
        onDoubleClick={(event) => event.stopPropagation()}
        onContextMenu={(event) => {
          if (!chosen) onChoose(false)
          onContextMenu(event)
        }}
        {...drag(mark.x, mark.curveY)}
      />
      {mark.bracket &&
        [mark.bracket.fromX, mark.bracket.toX].map((x, side) => (
          <div
            key={side === 0 ? 'from' : 'to'}
            className={styles.handle}
            data-kind="bracket"
            style={{ left: x - 6, top: BRACKET_Y - 6, width: 12, height: 18 }}
            {...width(x, BRACKET_Y)}
          />
        ))}
      {menu}
    </>
  )
}

/** What can be done with a band: switched, heard alone or left out, copied, removed. */
function useMarkMenu(node: string, own: ChainBand, editing: BandEditing) {
  const hear = useHear()
  const items = (): readonly ContextItem[] => [
    { name: own.on ? 'Switch off' : 'Switch on', run: () => editing.switch(own) },
    {
      name: 'Listen to this band only',
      run: () => hear({ kind: 'band', node, band: own.id, way: 'only' }),
    },
    {
      name: 'Listen to all but this band',
      run: () => hear({ kind: 'band', node, band: own.id, way: 'rest' }),
    },
    null,
    { name: 'Copy', keys: 'Ctrl C', run: () => void copyBands(store) },
    { name: 'Paste bands', keys: 'Ctrl V', run: () => pasteBands(store) },
    { name: 'Remove', keys: 'Delete', run: () => editing.remove(own) },
  ]
  return useContextMenu('Band', items)
}

/** A band as one would say it. */
function describeBand({ band, on }: ChainBand): string {
  const parts = [TYPE_NAMES[band.type], formatHz(band.hz)]
  if (hasGain(band.type)) parts.push(`${signed(band.db)} dB`)
  if (hasQ(band.type)) parts.push(`Q ${band.q.toFixed(2)}`)
  if (!on) parts.push('off')
  return parts.join(', ')
}

function nudge(band: EqBand, key: string, fine: boolean): Partial<EqBand> | null {
  const share = fine ? 0.1 : 1
  switch (key) {
    case 'ArrowRight':
      return { hz: round(band.hz * STEP_RATIO ** share, 4) }
    case 'ArrowLeft':
      return { hz: round(band.hz / STEP_RATIO ** share, 4) }
    case 'ArrowUp':
      return hasGain(band.type) ? { db: roundDb(band.db + STEP_DB * share) } : null
    case 'ArrowDown':
      return hasGain(band.type) ? { db: roundDb(band.db - STEP_DB * share) } : null
    case 'PageUp':
      return hasQ(band.type) ? { q: round(band.q * STEP_Q ** share, 4) } : null
    case 'PageDown':
      return hasQ(band.type) ? { q: round(band.q / STEP_Q ** share, 4) } : null
    default:
      return null
  }
}

function round(value: number, digits: number): number {
  return Number(value.toPrecision(digits))
}

function roundDb(db: number): number {
  return Math.round(db * 100) / 100
}

/** With Shift things follow the pointer this much more slowly. */
const FINE = 0.1

interface Grip {
  readonly gesture: string
  /** Where the thing was when it was taken, and where it has been moved to. */
  readonly from: { readonly x: number; readonly y: number }
  x: number
  y: number
  /** Where the pointer was last. */
  lastX: number
  lastY: number
}

/**
 * Dragging from where the thing stands: it never jumps to the pointer; slowly with Shift, along one axis alone with
 * Alt. At most one change per frame is made.
 */
export function useDrag(
  onStart: (event: PointerEvent<HTMLElement>) => void,
  onMove: (x: number, y: number, gesture: string) => void,
) {
  const grip = useRef<Grip | null>(null)
  const pending = useRef<{ frame: number; move: () => void } | null>(null)
  const latest = useRef(onMove)
  latest.current = onMove
  const finish = () => {
    if (pending.current) {
      cancelAnimationFrame(pending.current.frame)
      pending.current.move()
    }
    grip.current = null
  }
  return (x: number, y: number) => ({
    onPointerDown(event: PointerEvent<HTMLElement>) {
      if (event.button !== 0) return
      event.currentTarget.setPointerCapture(event.pointerId)
      grip.current = {
        gesture: crypto.randomUUID(),
        from: { x, y },
        x,
        y,
        lastX: event.clientX,
        lastY: event.clientY,
      }
      onStart(event)
    },
    onPointerMove({ clientX, clientY, shiftKey, altKey }: PointerEvent<HTMLElement>) {
      const held = grip.current
      if (!held) return
      const share = shiftKey ? FINE : 1
      held.x += share * (clientX - held.lastX)
      held.y += share * (clientY - held.lastY)
      held.lastX = clientX
      held.lastY = clientY
      const { from, gesture } = held
      const isLevel = Math.abs(held.x - from.x) >= Math.abs(held.y - from.y)
      const toX = altKey && !isLevel ? from.x : held.x
      const toY = altKey && isLevel ? from.y : held.y
      const move = () => {
        pending.current = null
        latest.current(toX, toY, gesture)
      }
      const frame = pending.current?.frame ?? requestAnimationFrame(() => pending.current?.move())
      pending.current = { frame, move }
    },
    onPointerUp: finish,
    onPointerCancel: finish,
  })
}
