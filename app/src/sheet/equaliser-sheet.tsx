import Box from '@mui/material/Box'
import Tab from '@mui/material/Tab'
import Tabs from '@mui/material/Tabs'
import Typography from '@mui/material/Typography'
import { chainOf } from '@sober-prism/core/session'
import type { ChainBand, Treatment } from '@sober-prism/core/treatments'
import type { ReactNode } from 'react'
import { shallowEqual } from 'react-redux'
import { Row } from '../controls/layout'
import { RulerPlot } from '../plot/ruler-plot'
import { interfaceActions } from '../store/interface-slice'
import { chosenNode, nodeName, openSession, shownTreatment, useRouting } from '../store/selectors'
import { type RootState, store, useAppDispatch, useAppSelector } from '../store/store'
import { useSize } from '../use-size'
import { useBandClipboard } from './bands/band-clipboard'
import { BandEditor } from './bands/band-editor'
import { type BandEditing, useBands } from './bands/use-bands'
import { ChainLine } from './chain/chain-line'
import { TreatmentEditor } from './chain/treatment-editor'
import { bandLetter } from './layers/survey-mark'
import { STAGE_NAMES } from './names'
import { ChainReading } from './reading/chain-reading'
import { READING_HEIGHT } from './reading/reading-panel'
import { SheetPlot } from './sheet-plot'
import type { SheetScale } from './sheet-scale'
import { selectSheet, sheetActions } from './sheet-slice'
import { readingName, SheetTools } from './sheet-tools'

const NO_BANDS: readonly ChainBand[] = []
const NO_TREATMENTS: readonly Treatment[] = []
/** Values that have so much room stand below a reading; with less they take turns. */
const COMFORTABLE_VALUES = 130

interface EqualiserSheetProps {
  /** What a step does on the sheet, over its picture. */
  readonly over?: (scale: SheetScale, editing: BandEditing) => ReactNode
  /** Whether it bears the ruler itself, where no picture above it does. */
  readonly ruler?: boolean
  /** Whether its values stand beside the picture, as tracks do beside pictures above it, and not below. */
  readonly valuesBeside?: boolean
  /** Whether what is read of the chain shares the place of a picture above it: {@link PictureOrReading}. */
  readonly readingElsewhere?: boolean
  /** Puts it away, where that is possible. */
  readonly onHide?: () => void
}

/** Where a window is low, or seen at twice its size, the sheet keeps its height and scrolls. */
const LOW = {
  '@media (max-height: 560px)': { overflowY: 'auto', '& > div': { minHeight: 300 } },
}

/** The picture is never lower than this, in pixels; in a low window, or beside its values, than the other. */
const LEAST_PLOT = 240
const LEAST_PLOT_LOW = 180
const LEAST_PLOT_BESIDE = 120
const LOW_WINDOW = 760
/** Chain, tools and ruler over the picture. */
const AROUND = { chain: 37, tools: 31, ruler: 34, tabs: 29 }
/** Values below the picture have at least this, and scroll where that is not enough. */
const LEAST_VALUES = 76

/** The height of a sheet at the least, with what stands around and below its picture. */
export function leastSheetHeight(ruler: boolean, windowHeight: number): number {
  const plot = windowHeight < LOW_WINDOW ? LEAST_PLOT_LOW : LEAST_PLOT
  return plot + AROUND.chain + AROUND.tools + (ruler ? AROUND.ruler : 0) + LEAST_VALUES
}

/** The chain of the chosen track, group or mix, and its treatment on the one ruler. */
export function EqualiserSheet(props: EqualiserSheetProps) {
  const { over, ruler = false, valuesBeside = false, readingElsewhere = false, onHide } = props
  const node = useAppSelector(chosenNode)
  const name = nodeName(useRouting(), node)
  const stage = useAppSelector((root) => root.interface.stage)
  const equaliserId = useAppSelector((root) => equaliserOf(onSheet(root, node).treatment)?.id)
  const editing = useBands(node, stage, equaliserId ?? null)
  const dispatch = useAppDispatch()
  useBandClipboard()
  return (
    <Box
      component="section"
      sx={{
        display: 'grid',
        gridTemplateRows: 'auto minmax(0, 1fr)',
        minWidth: 0,
        minHeight: 0,
        overflow: 'hidden',
        ...LOW,
      }}
      aria-label={`Equaliser of ${name}`}
      onKeyDown={(event) => {
        const isFlag = event.target instanceof Element && event.target.matches('[data-kind="flag"]')
        if (!isFlag || !(event.ctrlKey || event.metaKey) || event.key !== 'a') return
        event.preventDefault()
        const { treatment } = onSheet(store.getState(), node)
        dispatch(interfaceActions.bandsChosen(bandsIn(treatment).map((m) => m.id)))
      }}
    >
      <ChainLine />
      <Work
        node={node}
        editing={editing}
        over={over}
        valuesBeside={valuesBeside}
        readingElsewhere={readingElsewhere}
        tools={
          <>
            <SheetTools node={node} editing={editing} onHide={onHide} />
            {ruler && (
              <Box sx={{ display: 'grid', gridTemplateRows: `${AROUND.ruler}px` }}>
                <RulerPlot />
              </Box>
            )}
          </>
        }
        around={AROUND.tools + (ruler ? AROUND.ruler : 0)}
      />
    </Box>
  )
}

/** What stands on a node's sheet. */
function onSheet(root: RootState, node: string) {
  const treatments = chainOf(openSession(root), node)?.treatments ?? NO_TREATMENTS
  return { treatments, treatment: shownTreatment(treatments, root.interface) }
}

function equaliserOf(treatment: Treatment | null) {
  return treatment?.kind === 'equaliser' ? treatment : null
}

function bandsIn(treatment: Treatment | null): readonly ChainBand[] {
  return equaliserOf(treatment)?.params.bands ?? NO_BANDS
}

interface WorkProps
  extends Pick<EqualiserSheetProps, 'over' | 'valuesBeside' | 'readingElsewhere'> {
  readonly node: string
  readonly editing: BandEditing
  /** What stands over the picture, and its height. */
  readonly tools: ReactNode
  readonly around: number
}

/**
 * What follows each step of a drag: the picture, what is read below it, and the values. The picture comes first: where
 * reading and values have no room together, they are two sides of one place.
 */
function Work(props: WorkProps) {
  const { node, editing, over, valuesBeside = false, readingElsewhere = false } = props
  const { tools, around } = props
  const { treatments, treatment } = useAppSelector((root) => onSheet(root, node), shallowEqual)
  const { reading, readingInFront } = useAppSelector(selectSheet)
  const [ref, { height }] = useSize<HTMLDivElement>()
  const bands = bandsIn(treatment)
  const isRead = reading.kind !== 'off' && !readingElsewhere
  const least = valuesBeside
    ? LEAST_PLOT_BESIDE
    : window.innerHeight < LOW_WINDOW
      ? LEAST_PLOT_LOW
      : LEAST_PLOT
  // Before it is measured it has all the room.
  const spare = height === 0 ? Number.POSITIVE_INFINITY : height - around - least
  const isFolded = isRead && !valuesBeside && spare < READING_HEIGHT + COMFORTABLE_VALUES
  const readingShown = isRead && (!isFolded || readingInFront)
  const valuesShown = !isFolded || !readingInFront
  const most = spare - (readingShown ? READING_HEIGHT : 0) - (isFolded ? AROUND.tabs : 0)
  const values = (
    <Box
      sx={{
        display: 'flex',
        flexDirection: 'column',
        gap: '4px',
        overflowY: 'auto',
        scrollbarWidth: 'thin',
        minHeight: 38,
        p: '5px 12px 6px 10px',
        ...(valuesBeside
          ? { gridArea: 'values', borderRight: 1, borderColor: 'divider' }
          : {
              borderTop: 1,
              borderColor: 'divider',
              maxHeight: Number.isFinite(most) ? Math.max(LEAST_VALUES, most) : undefined,
            }),
      }}
    >
      {treatment && <TreatmentEditor node={node} treatment={treatment} />}
      {(!treatment || treatment.kind === 'equaliser') && (
        <Row sx={{ gap: '3px 10px' }}>
          <BandRow node={node} bands={bands} editing={editing} />
        </Row>
      )}
    </Box>
  )
  const picture = (
    <>
      <div>{tools}</div>
      <SheetPlot
        node={node}
        treatments={treatments}
        bands={bands}
        editing={editing}
        shown={treatment}
        over={over}
      />
      {isFolded && <ReadingTabs beside="Settings" />}
      {readingShown && (
        <Box sx={{ display: 'grid', height: READING_HEIGHT, borderTop: 1, borderColor: 'divider' }}>
          <ChainReading node={node} treatments={treatments} shown={treatment} />
        </Box>
      )}
    </>
  )
  const rows = `auto minmax(${least}px, 1fr)`
  if (valuesBeside) {
    return (
      <Box
        sx={{
          display: 'grid',
          gridTemplate: '"values picture" minmax(0, 1fr) / var(--side) minmax(0, 1fr)',
          minHeight: 0,
        }}
      >
        {values}
        <Box
          ref={ref}
          sx={{
            gridArea: 'picture',
            // As wide as pictures above it whose rows may scroll.
            overflow: 'hidden',
            scrollbarWidth: 'thin',
            scrollbarGutter: 'stable',
            display: 'grid',
            gridTemplateRows: rows,
            minWidth: 0,
            minHeight: 0,
          }}
        >
          {picture}
        </Box>
      </Box>
    )
  }
  return (
    <Box ref={ref} sx={{ display: 'grid', gridTemplateRows: rows, minWidth: 0, minHeight: 0 }}>
      {picture}
      {valuesShown && values}
    </Box>
  )
}

/** A picture above the sheet, and what is read of the chain in the same place while it is asked for. */
export function PictureOrReading({ name, children }: { name: string; children: ReactNode }) {
  const node = useAppSelector(chosenNode)
  const { treatments, treatment } = useAppSelector((root) => onSheet(root, node), shallowEqual)
  const { reading, readingInFront } = useAppSelector(selectSheet)
  const isRead = reading.kind !== 'off'
  const isInFront = isRead && readingInFront
  return (
    <Box
      sx={{ display: 'grid', gridTemplateRows: 'auto minmax(0, 1fr)', minHeight: 0, minWidth: 0 }}
    >
      <div>{isRead && <ReadingTabs beside={name} />}</div>
      {/* What stands behind keeps its size, and so what it has measured. */}
      <Box sx={{ display: 'grid', minHeight: 0, minWidth: 0, '& > *': { gridArea: '1 / 1' } }}>
        <Box
          sx={{ display: 'grid', minHeight: 0, minWidth: 0 }}
          style={isInFront ? { visibility: 'hidden' } : undefined}
        >
          {children}
        </Box>
        {isInFront && <ChainReading node={node} treatments={treatments} shown={treatment} />}
      </Box>
    </Box>
  )
}

/** Which of both stands in the place that they share. */
function ReadingTabs({ beside }: { beside: string }) {
  const { reading, readingInFront } = useAppSelector(selectSheet)
  const dispatch = useAppDispatch()
  const sx = { minHeight: AROUND.tabs - 1 }
  return (
    <Tabs
      value={readingInFront}
      aria-label={`${beside} or graph`}
      sx={{ borderTop: 1, borderColor: 'divider', minHeight: AROUND.tabs, px: '6px' }}
      onChange={(_, to: boolean) => dispatch(sheetActions.readingTurned(to))}
    >
      <Tab value={false} label={beside} sx={sx} />
      <Tab value={true} label={readingName(reading.kind)} sx={sx} />
    </Tabs>
  )
}

interface BandRowProps {
  readonly node: string
  readonly bands: readonly ChainBand[]
  readonly editing: BandEditing
}

/** The chosen band's values. */
function BandRow({ node, bands, editing }: BandRowProps) {
  const { tracks } = useRouting()
  const stage = useAppSelector((root) => root.interface.stage)
  const bandId = useAppSelector((root) => root.interface.bandId)
  const alsoBands = useAppSelector((root) => root.interface.alsoBands)
  const chosen = bands.findIndex((m) => m.id === bandId)
  const track = tracks.find((t) => t.id === node)
  if (chosen < 0) {
    return (
      <Typography color="textSecondary">
        {bands.length === 0
          ? `No bands in ${STAGE_NAMES[stage]} yet. Double-click the sheet to add one.`
          : 'Select a flag to change its band, or double-click the sheet to add one.'}
      </Typography>
    )
  }
  return (
    <BandEditor
      letter={bandLetter(chosen)}
      besides={alsoBands.length}
      chainBand={bands[chosen]}
      stereo={track === undefined || track.audio.channels === 2}
      editing={editing}
    />
  )
}
