import { Signal } from '@sober-prism/engine'
import {
  type PointerEvent,
  type RefObject,
  useCallback,
  useEffect,
  useMemo,
  useRef,
  useState,
} from 'react'
import { Plot, type Surface } from '../plot/plot'
import styles from './tracks.module.css'

/** A row as it is drawn beside the list. */
export interface MappedRow {
  readonly id: string
  /** Part of its loudness that is hidden or crowded, 0 to 1. */
  readonly lost: number
  readonly chosen: boolean
}

interface RowsMapProps {
  readonly rows: readonly MappedRow[]
  /** What scrolls them. */
  readonly scroller: RefObject<HTMLElement | null>
}

const LEAST_WINDOW = 12

/**
 * All rows of a list that scrolls, small beside it: longer where more of a track is masked, the chosen one in the
 * accent, and a frame about those in view. A press or a drag goes there. Nothing where all rows are in view.
 */
export function RowsMap({ rows, scroller }: RowsMapProps) {
  const scrolled = useMemo(() => new Signal(0), [])
  const signals = useRef([scrolled])
  const [overflows, setOverflows] = useState(false)
  // biome-ignore lint/correctness/useExhaustiveDependencies: other rows are watched anew.
  useEffect(() => {
    const list = scroller.current
    if (!list) return
    const tell = () => {
      setOverflows(list.scrollHeight > list.clientHeight + 1)
      // Told anew also where only the heights changed.
      scrolled.set(list.scrollTop + list.scrollHeight / 1e6)
    }
    tell()
    const observer = new ResizeObserver(tell)
    observer.observe(list)
    for (const row of list.children) observer.observe(row)
    list.addEventListener('scroll', tell, { passive: true })
    return () => {
      observer.disconnect()
      list.removeEventListener('scroll', tell)
    }
  }, [scroller, scrolled, rows])
  const draw = useCallback(
    ({ context, width, height, sheet }: Surface) => {
      const list = scroller.current
      if (!list) return
      const scale = height / list.scrollHeight
      rows.forEach(({ lost, chosen }, i) => {
        const row = list.children[i] as HTMLElement | undefined
        if (!row) return
        const from = (row.offsetTop - list.offsetTop) * scale
        const tall = Math.max(1, row.offsetHeight * scale - 1)
        context.fillStyle = chosen ? sheet.accent : sheet.inkSoft
        context.fillRect(0, from, chosen ? width : 1 + (width - 2) * lost, tall)
      })
      const tall = Math.max(LEAST_WINDOW, list.clientHeight * scale)
      const top = Math.min(height - tall, list.scrollTop * scale)
      context.strokeStyle = sheet.ink
      context.lineWidth = 1
      context.strokeRect(0.5, top + 0.5, width - 1, tall - 1)
    },
    [rows, scroller],
  )
  if (!overflows) return null
  const go = (event: PointerEvent<HTMLElement>) => {
    const list = scroller.current
    if (!list || event.buttons !== 1) return
    const box = event.currentTarget.getBoundingClientRect()
    const share = (event.clientY - box.top) / box.height
    list.scrollTop = share * list.scrollHeight - list.clientHeight / 2
  }
  return (
    <Plot
      className={styles.map}
      draw={draw}
      signals={signals.current}
      title="All tracks, longer where more is masked. Press to go there."
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId)
        go(event)
      }}
      onPointerMove={go}
    />
  )
}
