import Button from '@mui/material/Button'
import { styled } from '@mui/material/styles'
import Typography from '@mui/material/Typography'
import { referencePassage, sessionFrames } from '@sober-prism/core/session'
import { errorSentence } from '@sober-prism/engine'
import {
  type KeyboardEvent,
  type PointerEvent,
  useCallback,
  useEffect,
  useMemo,
  useRef,
  useState,
  type WheelEvent,
} from 'react'
import { Choice } from '../controls/choice'
import { Row } from '../controls/layout'
import { formatDb, formatHzWithNote, formatTime } from '../format'
import { SHEETS } from '../plot/inks'
import { Plot, type Surface } from '../plot/plot'
import { plumb } from '../plot/plumb'
import { PLOT_LEFT, PLOT_RIGHT, rulerSpan, useRulerSpan, WHOLE_RULER } from '../plot/ruler'
import { useDesk, useHeard } from '../shell/desk-context'
import { useHear } from '../shell/use-hear'
import { interfaceActions } from '../store/interface-slice'
import { nodeName, useRouting, useSession } from '../store/selectors'
import { useAppDispatch, useAppSelector, useEdit } from '../store/store'
import { hearCompared, heardReference } from '../tracks/compared'
import { usePlace } from '../transport/use-place'
import {
  cleanActions,
  drawnOverTime,
  type SpectrogramView,
  selectClean,
  WHOLE_VIEW,
} from './clean-slice'
import { COLUMNS, drawOver, drawSpectrogram, inkImage, ROWS } from './draw-spectrogram'
import { type RegionUse, readRegion, regionText, regionUseEdits } from './spectrogram-region'
import { useSpectrogram } from './use-spectrogram'
import { moved, scrolled, zoomed } from './view'

const SIZES = [
  [1024, 'Time resolution'],
  [4096, 'Even resolution'],
  [16384, 'Frequency resolution'],
] as const
const RANGES = [
  [50, '50 dB'],
  [70, '70 dB'],
  [100, '100 dB'],
] as const
const TILTS = [
  [0, 'No tilt'],
  [3, '3 dB/oct'],
  [4.5, '4.5 dB/oct'],
] as const
const SIDES = {
  off: '',
  recorded: 'before its chain',
  treated: 'after its chain',
  both: 'after its chain, with what it removes in a second ink',
  reference: 'reference',
}
/** A press that moves less than this, in pixels, is a click. */
const CLICK_PIXELS = 4
const ZOOM = 1.25

/** The chosen node, or a reference, over the passage, time downwards, on the sheet's ruler; the denser the ink, the louder. */
export function Spectrogram({ node }: { node: string }) {
  const session = useRouting()
  const desk = useDesk()
  const dispatch = useAppDispatch()
  const spectrogram = useAppSelector(selectClean).spectrogram
  const { size, rangeDb, tilt, stretch } = spectrogram
  const ruler = useRulerSpan()
  const view = useMemo(() => ({ ...stretch, ...ruler }), [stretch, ruler])
  const { side, reference } = drawnOverTime(spectrogram, session.references)
  // A region is worked on in the node's own picture.
  const region = reference ? null : spectrogram.region
  const sheetName = useAppSelector((root) => root.interface.sheet)
  const { reading, drawn } = useSpectrogram(reference?.id ?? node, side, size, view)
  const [read, setRead] = useState<{ hz: number; seconds: number; db: number } | null>(null)
  const grip = useRef<{ x: number; y: number; at: Place } | null>(null)
  const { sampleRateHz } = session
  const passage = session.passage ?? { fromFrame: 0, toFrame: sessionFrames(session) }
  const { fromFrame, toFrame } = reference ? referencePassage(session, reference) : passage
  const heard = heardReference(useHeard()?.rendition)
  const isPlayed = !reference || heard === reference.id
  /** Where on the session's time line the picture begins. */
  const begins = passage.fromFrame
  const name = reference?.name ?? nodeName(session, node)
  const length = toFrame - fromFrame
  const place = usePlace()
  const signals = useRef([plumb, place.current])
  const set = useCallback(
    ({ view: next, region: drawnRegion, ...change }: Change) => {
      if (next) {
        const { from, to, lowHz, highHz } = next
        const isWhole = lowHz === WHOLE_VIEW.lowHz && highHz === WHOLE_VIEW.highHz
        rulerSpan.set(isWhole ? WHOLE_RULER : { lowHz, highHz })
        dispatch(cleanActions.spectrogramChanged({ stretch: { from, to } }))
      }
      if (drawnRegion !== undefined) {
        dispatch(cleanActions.spectrogramChanged({ region: drawnRegion }))
      }
      dispatch(cleanActions.spectrogramChanged(change))
    },
    [dispatch],
  )
  // A region belongs to the node it was drawn for.
  // biome-ignore lint/correctness/useExhaustiveDependencies: another node begins without a region.
  useEffect(() => {
    set({ region: null })
  }, [node, set])
  const image = useMemo(
    () => reading && inkImage({ ...reading, rangeDb, tilt }, SHEETS[sheetName]),
    [reading, rangeDb, tilt, sheetName],
  )
  const boxOf = useCallback(
    (of: SpectrogramView, width: number) => {
      const toY = (share: number) => (share - view.from) / (view.to - view.from)
      const toX = (hz: number) => hzToShare(hz, view, width)
      return [toX(of.lowHz), toY(of.from), toX(of.highHz), toY(of.to)] as const
    },
    [view],
  )
  const drawnView = reading?.view ?? view
  const draw = useCallback(
    (surface: Surface) => {
      const stretch = {
        fromSeconds: (fromFrame + view.from * length) / sampleRateHz,
        toSeconds: (fromFrame + view.to * length) / sampleRateHz,
      }
      drawSpectrogram(surface, image, stretch, boxOf(drawnView, surface.width))
    },
    [image, fromFrame, length, view, sampleRateHz, boxOf, drawnView],
  )
  const over = useCallback(
    (surface: Surface) => {
      const share = (place.current.value - begins) / length
      drawOver(surface, {
        hz: plumb.value,
        toX: (hz) => hzToShare(hz, view, surface.width),
        played: isPlayed ? (share - view.from) / (view.to - view.from) : null,
        region: region && boxOf(region, surface.width),
      })
    },
    [view, region, begins, isPlayed, length, place, boxOf],
  )
  const readAt = ({ hz, share }: Place) => {
    plumb.set(hz)
    if (!reading) return
    const { edgesHz, levels, view: of } = reading
    const row = Math.floor(((share - of.from) / (of.to - of.from)) * ROWS)
    const column = edgesHz.findIndex((edge) => edge > hz) - 1
    if (row < 0 || row >= ROWS || column < 0) return
    const db = levels[row * COLUMNS + column]
    setRead({ hz, seconds: (fromFrame + share * length) / sampleRateHz, db })
  }
  const onPointerMove = (event: PointerEvent<HTMLElement>) => {
    const at = placeAt(event, view)
    readAt(at)
    const held = grip.current
    if (!held || reference) return
    if (Math.hypot(event.clientX - held.x, event.clientY - held.y) < CLICK_PIXELS) return
    const [a, b] = [held.at, at]
    set({
      region: {
        from: Math.min(a.share, b.share),
        to: Math.max(a.share, b.share),
        lowHz: Math.min(a.hz, b.hz),
        highHz: Math.max(a.hz, b.hz),
      },
    })
  }
  const onPointerUp = (event: PointerEvent<HTMLElement>) => {
    const held = grip.current
    grip.current = null
    if (!held || Math.hypot(event.clientX - held.x, event.clientY - held.y) >= CLICK_PIXELS) return
    if (region) return set({ region: null })
    const seek = () => desk.player.seek(Math.round(begins + held.at.share * length))
    if (isPlayed) return seek()
    hearCompared(desk, reference.id)
      .then(seek)
      .catch((error) => dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning')))
  }
  const onWheel = (event: WheelEvent<HTMLElement>) => {
    const { hz, share } = placeAt(event, view)
    const axis = event.shiftKey ? 'frequency' : 'time'
    const ratio = event.deltaY + event.deltaX < 0 ? 1 / ZOOM : ZOOM
    set({ view: zoomed(view, axis, ratio, axis === 'time' ? share : hz) })
  }
  const onKeyDown = (event: KeyboardEvent) => {
    const { key, shiftKey } = event
    const next = KEYS[key]?.(view, region, shiftKey)
    if (!next || (reference && 'region' in next)) return
    event.preventDefault()
    event.stopPropagation()
    set(next)
  }
  const hint = reference
    ? 'Point to read, click to hear it from there in place of the mix.'
    : 'Point to read, click to play from there, drag to select a region.'
  const isWhole = stretch.from === 0 && stretch.to === 1
  return (
    <OverTime aria-label={`Spectrogram of ${name}, ${SIDES[side]}`}>
      <Row role="toolbar" aria-label="Spectrogram" sx={TOOLS}>
        <Choice label="Window" value={size} options={SIZES} onChange={(v) => set({ size: v })} />
        <Choice
          label="Dynamic range"
          value={rangeDb}
          options={RANGES}
          onChange={(v) => set({ rangeDb: v })}
        />
        <Choice label="Tilt" value={tilt} options={TILTS} onChange={(v) => set({ tilt: v })} />
        <Typography
          variant={reading && read ? 'figure' : 'body2'}
          noWrap
          color={reading && read ? undefined : 'textSecondary'}
          sx={{ flex: 1, minWidth: 0 }}
          title={hint}
        >
          {!reading
            ? `Drawing… ${Math.round(100 * drawn)} %`
            : read
              ? `${formatHzWithNote(read.hz)}  ${formatTime(read.seconds)}  ${formatDb(read.db)}`
              : hint}
        </Typography>
        {!isWhole && (
          <Button variant="text" onClick={() => set({ view: { ...view, from: 0, to: 1 } })}>
            Whole passage
          </Button>
        )}
      </Row>
      <Plot
        style={{ cursor: 'crosshair' }}
        draw={draw}
        role="application"
        tabIndex={0}
        aria-label="Spectrogram: arrow keys scroll, plus and minus zoom in time, with Shift in frequency; Enter draws a region, which arrow keys then move"
        label={`${name} over the passage, ${SIDES[side]}: time downwards, frequency to the right`}
        onPointerDown={(event) => {
          if (event.button !== 0) return
          event.currentTarget.setPointerCapture(event.pointerId)
          grip.current = { x: event.clientX, y: event.clientY, at: placeAt(event, view) }
        }}
        onPointerMove={onPointerMove}
        onPointerUp={onPointerUp}
        onPointerLeave={() => {
          plumb.set(null)
          setRead(null)
        }}
        onWheel={onWheel}
        onKeyDown={onKeyDown}
      >
        <Plot className="over" draw={over} signals={signals.current} />
      </Plot>
      {region && reading && (
        <Region node={node} region={region} reading={reading} passage={passage} view={view} />
      )}
    </OverTime>
  )
}

/** The picture under one line of tools. */
const OverTime = styled('section')({
  position: 'relative',
  display: 'grid',
  // No wider than its place, whatever its tools would like: it stands on the sheet's ruler.
  gridTemplate: 'auto minmax(0, 1fr) / minmax(0, 1fr)',
  minHeight: 0,
  minWidth: 0,
  overflow: 'hidden',
})

const TOOLS = {
  overflow: 'hidden',
  flexWrap: 'nowrap',
  gap: '4px 8px',
  p: '3px 12px 3px 10px',
  minHeight: 34,
}

interface RegionProps {
  /** What is looked at: the region's words stand where they do not cover it. */
  readonly view: SpectrogramView
  readonly node: string
  readonly region: SpectrogramView
  readonly reading: Parameters<typeof readRegion>[0]
  readonly passage: { readonly fromFrame: number; readonly toFrame: number }
}

/** What a region holds, heard alone, and what becomes of it on the sheet. */
function Region({ node, region, reading, passage, view }: RegionProps) {
  const session = useSession()
  const hearOther = useHear()
  const dispatch = useAppDispatch()
  const edit = useEdit()
  const found = useMemo(() => readRegion(reading, region), [reading, region])
  if (!found) return null
  const length = passage.toFrame - passage.fromFrame
  const isLow = (region.from + region.to) / 2 > (view.from + view.to) / 2
  const hear = () => {
    const stretch = {
      fromFrame: Math.round(passage.fromFrame + region.from * length),
      toFrame: Math.round(passage.fromFrame + region.to * length),
    }
    hearOther({ kind: 'region', node, stretch, fromHz: region.lowHz, toHz: region.highHz })
  }
  const use = (as: RegionUse) => {
    const made = regionUseEdits(session, node, as, region, found)
    if (!made) {
      return dispatch(
        interfaceActions.noticeShown('The drawn curve holds no more points.', 'warning'),
      )
    }
    edit(made.edits)
    dispatch(interfaceActions.stageChosen('clean'))
    dispatch(
      as === 'bell'
        ? interfaceActions.bandChosen(made.id)
        : interfaceActions.treatmentChosen({ treatmentId: made.id, stage: 'clean' }),
    )
    dispatch(interfaceActions.noticeShown('Region added to the sheet.', 'info', 'edit'))
  }
  return (
    <Row
      aria-label="Region"
      as="section"
      sx={{
        position: 'absolute',
        insetInline: '10px 12px',
        ...(isLow ? { top: 40 } : { bottom: 6 }),
        p: '4px 8px',
        border: 1,
        borderColor: 'divider',
        bgcolor: 'background.paper',
      }}
    >
      <Typography variant="body2" sx={{ flex: '1 1 220px' }}>
        {regionText(region, passage, session.sampleRateHz)}: loudest {formatHzWithNote(found.hz)},{' '}
        {formatDb(found.db)} dB; mean {formatDb(found.meanDb)} dB
      </Typography>
      <Button onClick={hear}>Play it alone</Button>
      <Button onClick={() => use('bell')}>Add bell</Button>
      <Button onClick={() => use('needle')}>Add notch</Button>
      <Button onClick={() => use('series')}>Add harmonic notches</Button>
    </Row>
  )
}

/** Where one points: a frequency, and a share of the passage. */
interface Place {
  readonly hz: number
  readonly share: number
}

function placeAt(
  event: { clientX: number; clientY: number; currentTarget: HTMLElement },
  view: SpectrogramView,
): Place {
  const box = event.currentTarget.getBoundingClientRect()
  const inside = (v: number) => Math.max(0, Math.min(1, v))
  const wide = Math.max(1, box.width - PLOT_LEFT - PLOT_RIGHT)
  const x = inside((event.clientX - box.left - PLOT_LEFT) / wide)
  const y = inside((event.clientY - box.top) / Math.max(1, box.height))
  return {
    hz: view.lowHz * (view.highHz / view.lowHz) ** x,
    share: view.from + y * (view.to - view.from),
  }
}

/** The share of a picture's width at which a frequency stands. */
function hzToShare(hz: number, { lowHz, highHz }: SpectrogramView, width: number): number {
  const share = Math.log(hz / lowHz) / Math.log(highHz / lowHz)
  return (PLOT_LEFT + share * (width - PLOT_LEFT - PLOT_RIGHT)) / width
}

/** What a hand or a key changes: what is looked at, the region, or how it is drawn. */
type Change = Parameters<typeof cleanActions.spectrogramChanged>[0] & {
  readonly view?: SpectrogramView
}

type KeyAction = (
  view: SpectrogramView,
  region: SpectrogramView | null,
  shift: boolean,
) => Change | null

const scroll =
  (axis: 'time' | 'frequency', direction: 1 | -1): KeyAction =>
  (view, region, shift) =>
    region
      ? { region: moved(region, axis, direction, shift) }
      : { view: scrolled(view, axis, direction) }

const zoom =
  (ratio: number): KeyAction =>
  (view, _, shift) => ({ view: zoomed(view, shift ? 'frequency' : 'time', ratio) })

const KEYS: Readonly<Record<string, KeyAction>> = {
  ArrowUp: scroll('time', -1),
  ArrowDown: scroll('time', 1),
  ArrowLeft: scroll('frequency', -1),
  ArrowRight: scroll('frequency', 1),
  '+': zoom(1 / ZOOM),
  '=': zoom(1 / ZOOM),
  '*': zoom(1 / ZOOM),
  '-': zoom(ZOOM),
  _: zoom(ZOOM),
  Enter: (view, region) => ({ region: region ? null : middleOf(view) }),
  Escape: (_, region) => (region ? { region: null } : { view: WHOLE_VIEW }),
}

/** A region in the middle of what is looked at, to be moved by keys. */
function middleOf({ from, to, lowHz, highHz }: SpectrogramView): SpectrogramView {
  const at = (share: number) => lowHz * (highHz / lowHz) ** share
  return {
    from: from + 0.4 * (to - from),
    to: from + 0.6 * (to - from),
    lowHz: at(0.45),
    highHz: at(0.55),
  }
}
