import ButtonBase from '@mui/material/ButtonBase'
import Typography from '@mui/material/Typography'
import { HUNT } from '@sober-prism/core/findings'
import { type KeyboardEvent, useEffect, useRef } from 'react'
import { formatHzWithNote } from '../format'
import { isLookedAt } from '../plot/ruler'
import { type SheetScale, toHz, toX } from '../sheet/sheet-scale'
import { useAppDispatch, useAppSelector } from '../store/store'
import styles from './clean.module.css'
import { cleanActions, selectClean } from './clean-slice'
import type { Hunt } from './use-hunt'

const STEP_RATIO = 2 ** (1 / 24)
const FINE_RATIO = 2 ** (1 / 240)
const WIDTH_RATIO = 1.15
/** Room for the figure beside the boost. */
const FIGURE_WIDTH = 350

/** While one hunts: the boost on the sheet, moved by pointer or by keys; pressing makes the cut. */
export function HuntLayer({ scale, hunt }: { scale: SheetScale; hunt: Hunt }) {
  const dispatch = useAppDispatch()
  const { q } = useAppSelector(selectClean)
  const layer = useRef<HTMLDivElement>(null)
  const { at } = hunt
  useEffect(() => layer.current?.focus(), [])
  const hzAt = (clientX: number) => {
    const box = layer.current?.getBoundingClientRect()
    return toHz(clientX - (box?.left ?? 0), scale)
  }
  const onKeyDown = (event: KeyboardEvent) => {
    const ratio = event.shiftKey ? FINE_RATIO : STEP_RATIO
    const hz = at?.hz ?? 1000
    const steps = new Map([
      ['ArrowRight', () => hunt.move(hz * ratio)],
      ['ArrowLeft', () => hunt.move(hz / ratio)],
      ['ArrowUp', () => dispatch(cleanActions.widthChanged(q * WIDTH_RATIO))],
      ['ArrowDown', () => dispatch(cleanActions.widthChanged(q / WIDTH_RATIO))],
      ['Enter', () => hunt.cut()],
      ['Escape', () => dispatch(cleanActions.huntSwitched(false))],
    ])
    const run = steps.get(event.key)
    if (!run) return
    event.preventDefault()
    event.stopPropagation()
    dispatch(cleanActions.sweepSwitched(false))
    run()
  }
  const x = at ? toX(at.hz, scale) : 0
  const inView = hunt.passed.filter((ring) => isLookedAt(ring.hz, scale.span))
  return (
    <div
      ref={layer}
      className={styles.hunt}
      role="slider"
      tabIndex={0}
      aria-label="Boost of the hunt"
      aria-valuemin={60}
      aria-valuemax={14000}
      aria-valuenow={Math.round(at?.hz ?? 60)}
      aria-valuetext={at ? `${formatHzWithNote(at.hz)}, boosted ${at.db.toFixed(1)} dB` : 'off'}
      onPointerMove={(event) => {
        dispatch(cleanActions.sweepSwitched(false))
        hunt.move(hzAt(event.clientX))
      }}
      onClick={() => hunt.cut()}
      onDoubleClick={(event) => event.stopPropagation()}
      onWheel={(event) =>
        dispatch(cleanActions.widthChanged(event.deltaY < 0 ? q * WIDTH_RATIO : q / WIDTH_RATIO))
      }
      onKeyDown={onKeyDown}
    >
      {inView.map((ring) => (
        <ButtonBase
          key={ring.hz}
          className={styles.huntMark}
          style={{ left: toX(ring.hz, scale) }}
          aria-label={`Cut the resonance at ${formatHzWithNote(ring.hz)}, ${ring.db.toFixed(1)} dB high`}
          onPointerMove={(event) => event.stopPropagation()}
          onKeyDown={(event) => event.key === 'Enter' && event.stopPropagation()}
          onClick={(event) => {
            event.stopPropagation()
            hunt.cut(ring)
          }}
        >
          {ring.db.toFixed(1)}
        </ButtonBase>
      ))}
      {at && (
        <>
          <span className={styles.huntLine} style={{ left: x }} />
          <Typography
            variant="figure"
            sx={{
              position: 'absolute',
              top: 6,
              p: '2px 6px',
              whiteSpace: 'nowrap',
              bgcolor: 'background.paper',
              outline: '1px solid var(--lineStrong)',
              pointerEvents: 'none',
            }}
            style={
              x < scale.width / 2
                ? { left: Math.min(x + 8, Math.max(4, scale.width - FIGURE_WIDTH)) }
                : { right: Math.min(scale.width - x + 8, Math.max(4, scale.width - FIGURE_WIDTH)) }
            }
          >
            {formatHzWithNote(at.hz)} · +{at.db.toFixed(1)} dB
            {at.db < HUNT.mostDb ? `, limited to +${HUNT.mostRiseLu} LU` : ''}
          </Typography>
        </>
      )}
    </div>
  )
}
