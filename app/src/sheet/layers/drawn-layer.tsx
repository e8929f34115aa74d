import { drawnDb } from '@sober-prism/core/filters'
import type { Treatment } from '@sober-prism/core/treatments'
import { type KeyboardEvent, useMemo, useRef } from 'react'
import { formatHz, signed } from '../../format'
import { isLookedAt } from '../../plot/ruler'
import { useEdit } from '../../store/store'
import { placesFor } from '../read-curve'
import styles from '../sheet.module.css'
import { dbToY, type SheetScale, toHz, toX, withinSheet, yToDb } from '../sheet-scale'
import { pointMoved } from './drawn-points'
import { useDrag } from './mark-handles'

type DrawnCurve = Extract<Treatment, { kind: 'drawn-curve' }>

interface DrawnLayerProps {
  readonly node: string
  readonly treatment: DrawnCurve
  readonly scale: SheetScale
}

const HALF = 7

/** What was drawn, dotted under what the filter really does, with a handle for each point. */
export function DrawnLayer({ node, treatment, scale }: DrawnLayerProps) {
  const edit = useEdit()
  const { id, params } = treatment
  const line = useMemo(() => {
    const db = drawnDb(params)
    return Array.from(placesFor([treatment]), (hz) => {
      const y = dbToY(withinSheet(db(hz), scale), scale)
      return `${toX(hz, scale).toFixed(1)},${y.toFixed(1)}`
    }).join(' ')
  }, [treatment, params, scale])
  const change = (points: typeof params.points, gesture?: string) =>
    edit(
      [{ kind: 'set-treatment', node, treatment: id, change: { params: { ...params, points } } }],
      {
        gesture,
      },
    )
  return (
    <>
      <svg className={styles.drawn} width={scale.width} height={scale.height} aria-hidden="true">
        <polyline points={line} />
      </svg>
      {params.points.map((point, i) => (
        <DrawnPoint
          // biome-ignore lint/suspicious/noArrayIndexKey: points are told apart by their place.
          key={i}
          index={i}
          point={point}
          scale={scale}
          onMove={(hz, db, gesture) =>
            change(
              pointMoved(params.points, i, Number(hz.toPrecision(4)), Math.round(10 * db) / 10),
              gesture,
            )
          }
          onRemove={() => {
            if (params.points.length > 1) change(params.points.filter((_, k) => k !== i))
          }}
        />
      ))}
    </>
  )
}

interface DrawnPointProps {
  readonly index: number
  readonly point: { readonly hz: number; readonly db: number }
  readonly scale: SheetScale
  readonly onMove: (hz: number, db: number, gesture: string) => void
  readonly onRemove: () => void
}

function DrawnPoint({ index, point, scale, onMove, onRemove }: DrawnPointProps) {
  const handle = useRef<HTMLDivElement>(null)
  const { hz, db } = point
  const x = toX(hz, scale)
  const y = dbToY(withinSheet(db, scale), scale)
  const drag = useDrag(
    () => handle.current?.focus(),
    (toXPixel, toYPixel, gesture) => onMove(toHz(toXPixel, scale), yToDb(toYPixel, scale), gesture),
  )
  const onKeyDown = (event: KeyboardEvent) => {
    const step = event.shiftKey ? 0.1 : 1
    const gesture = `point ${index}`
    const steps = new Map([
      ['ArrowRight', () => onMove(hz * 2 ** (step / 12), db, gesture)],
      ['ArrowLeft', () => onMove(hz / 2 ** (step / 12), db, gesture)],
      ['ArrowUp', () => onMove(hz, db + step, gesture)],
      ['ArrowDown', () => onMove(hz, db - step, gesture)],
      ['PageUp', () => onMove(hz, db + 12, gesture)],
      ['PageDown', () => onMove(hz, db - 12, gesture)],
      ['Delete', onRemove],
      ['Backspace', onRemove],
    ])
    const run = steps.get(event.key)
    if (!run) return
    event.preventDefault()
    run()
  }
  if (!isLookedAt(hz, scale.span)) return null
  return (
    <div
      ref={handle}
      className={styles.drawnPoint}
      role="slider"
      tabIndex={0}
      aria-label={`Point ${index + 1}`}
      aria-valuemin={-120}
      aria-valuemax={24}
      aria-valuenow={Math.round(db)}
      aria-valuetext={`${formatHz(hz)}, ${signed(db)} dB`}
      style={{ left: x - HALF, top: y - HALF }}
      onKeyDown={onKeyDown}
      onDoubleClick={(event) => {
        event.stopPropagation()
        onRemove()
      }}
      {...drag(x, y)}
    />
  )
}
