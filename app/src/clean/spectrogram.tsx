import Typography from '@mui/material/Typography'
import { sessionFrames } from '@sober-prism/core/session'
import { type PointerEvent, useCallback, useMemo, useRef, useState } from 'react'
import { Choice } from '../controls/choice'
import { formatDb, formatHzWithNote, formatTime } from '../format'
import { SHEETS } from '../plot/inks'
import { Plot, type Surface } from '../plot/plot'
import { plumb } from '../plot/plumb'
import { xToHz } from '../plot/ruler'
import { useDesk } from '../shell/desk-context'
import { nodeName, useSession } from '../store/selectors'
import { useAppDispatch, useAppSelector } from '../store/store'
import { usePlace } from '../transport/use-place'
import styles from './clean.module.css'
import { cleanActions, selectClean } from './clean-slice'
import { COLUMNS, drawOver, drawSpectrogram, EDGES_HZ, inkImage, ROWS } from './draw-spectrogram'
import { useSpectrogram } from './use-spectrogram'

const SIZES = [
  [1024, 'sharp in time'],
  [4096, 'even'],
  [16384, 'sharp in frequency'],
] as const
const RANGES = [
  [50, '50 dB'],
  [70, '70 dB'],
  [100, '100 dB'],
] as const
const TILTS = [
  [0, 'no tilt'],
  [3, '3 dB per octave'],
  [4.5, '4.5 dB per octave'],
] as const

/** The chosen track over the passage, time downwards, on the sheet's ruler; the denser the ink, the louder. */
export function Spectrogram({ node }: { node: string }) {
  const session = useSession()
  const desk = useDesk()
  const dispatch = useAppDispatch()
  const { side, size, rangeDb, tilt } = useAppSelector(selectClean).spectrogram
  const sheetName = useAppSelector((root) => root.interface.sheet)
  const levels = useSpectrogram(node, side, size)
  const [read, setRead] = useState<{ hz: number; seconds: number; db: number } | null>(null)
  const { sampleRateHz, passage } = session
  const { fromFrame, toFrame } = passage ?? { fromFrame: 0, toFrame: sessionFrames(session) }
  const place = usePlace()
  const signals = useRef([plumb, place.current])
  const image = useMemo(
    () => levels && inkImage({ levels, rangeDb, tilt }, SHEETS[sheetName]),
    [levels, rangeDb, tilt, sheetName],
  )
  const draw = useCallback(
    (surface: Surface) =>
      drawSpectrogram(surface, image, {
        fromSeconds: fromFrame / sampleRateHz,
        toSeconds: toFrame / sampleRateHz,
      }),
    [image, fromFrame, toFrame, sampleRateHz],
  )
  const over = useCallback(
    (surface: Surface) =>
      drawOver(surface, plumb.value, (place.current.value - fromFrame) / (toFrame - fromFrame)),
    [fromFrame, toFrame, place],
  )
  const frameAt = (event: PointerEvent<HTMLElement>) => {
    const box = event.currentTarget.getBoundingClientRect()
    const share = Math.max(0, Math.min(1, (event.clientY - box.top) / box.height))
    return fromFrame + share * (toFrame - fromFrame)
  }
  const readAt = (event: PointerEvent<HTMLElement>) => {
    const box = event.currentTarget.getBoundingClientRect()
    const hz = xToHz(event.clientX - box.left, box.width)
    plumb.set(hz)
    if (!levels) return
    const frame = frameAt(event)
    const row = Math.min(ROWS - 1, Math.floor(((frame - fromFrame) / (toFrame - fromFrame)) * ROWS))
    const column = EDGES_HZ.findIndex((edge) => edge > hz) - 1
    const db = levels[row * COLUMNS + Math.max(0, Math.min(COLUMNS - 1, column))]
    setRead({ hz, seconds: frame / sampleRateHz, db })
  }
  const set = (change: Parameters<typeof cleanActions.spectrogramChanged>[0]) =>
    dispatch(cleanActions.spectrogramChanged(change))
  const what = side === 'treated' ? 'behind its chain' : 'as recorded'
  return (
    <section
      className={styles.spectrogram}
      aria-label={`Spectrogram of ${nodeName(session, node)}, ${what}`}
    >
      <div className={styles.spectrogramSide}>
        <Choice label="Window" value={size} options={SIZES} onChange={(v) => set({ size: v })} />
        <Choice
          label="Range of the ink"
          value={rangeDb}
          options={RANGES}
          onChange={(v) => set({ rangeDb: v })}
        />
        <Choice label="Tilt" value={tilt} options={TILTS} onChange={(v) => set({ tilt: v })} />
        <Typography variant="figure" className={styles.spectrogramRead}>
          {!levels
            ? 'Drawing …'
            : read
              ? `${formatHzWithNote(read.hz)}\n${formatTime(read.seconds)}  ${formatDb(read.db)}`
              : 'Point at it to read; press to play from there.'}
        </Typography>
      </div>
      <Plot
        className={styles.spectrogramPlot}
        draw={draw}
        label={`${nodeName(session, node)} over the passage, ${what}: time downwards, frequency to the right`}
        onPointerMove={readAt}
        onPointerLeave={() => {
          plumb.set(null)
          setRead(null)
        }}
        onClick={(event) => desk.player.seek(Math.round(frameAt(event as never)))}
      >
        <Plot className={styles.spectrogramOver} draw={over} signals={signals.current} />
      </Plot>
    </section>
  )
}
