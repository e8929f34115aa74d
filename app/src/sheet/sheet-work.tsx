import Box from '@mui/material/Box'
import Typography from '@mui/material/Typography'
import type { ChainBand } from '@sober-prism/core/treatments'
import { type ReactNode, useMemo } from 'react'
import { shallowEqual } from 'react-redux'
import { Row } from '../controls/layout'
import { useRouting } from '../store/selectors'
import { useAppSelector } from '../store/store'
import { useSize } from '../use-size'
import { BandEditor } from './bands/band-editor'
import type { BandEditing } from './bands/use-bands'
import { TreatmentEditor } from './chain/treatment-editor'
import { AROUND, COMFORTABLE_VALUES, LEAST_PLOT_BESIDE, LEAST_VALUES, leastPlot } from './heights'
import { bandLetter } from './layers/survey-mark'
import { STAGE_NAMES } from './names'
import { bandsIn, onSheet } from './on-sheet'
import { ChainReading } from './reading/chain-reading'
import { ReadingTabs } from './reading/picture-or-reading'
import { READING_HEIGHT } from './reading/reading-panel'
import { SheetPlot } from './sheet-plot'
import type { SheetScale } from './sheet-scale'
import { selectSheet } from './sheet-slice'

/** How what stands on the sheet is laid out, and what a step does on it. */
export interface SheetLayout {
  /** What a step does on the sheet, over its picture. */
  readonly over?: (scale: SheetScale, editing: BandEditing) => ReactNode
  /** Whether its values stand beside the picture, as tracks do beside pictures above it, and not below. */
  readonly valuesBeside?: boolean
  /** Whether what is read of the chain shares the place of a picture above it (`PictureOrReading`). */
  readonly readingElsewhere?: boolean
}

interface WorkProps extends SheetLayout {
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
export function SheetWork(props: WorkProps) {
  const { node, editing, over, valuesBeside = false, readingElsewhere = false } = props
  const { tools, around } = props
  const { treatments, treatment } = useAppSelector((root) => onSheet(root, node), shallowEqual)
  const { reading, readingInFront } = useAppSelector(selectSheet)
  const [ref, { height }] = useSize<HTMLDivElement>()
  const bands = bandsIn(treatment)
  const isRead = reading.kind !== 'off' && !readingElsewhere
  // To ask for the window's height may lay out the page: once for each height of the sheet is enough.
  // biome-ignore lint/correctness/useExhaustiveDependencies: another height may come from another window.
  const least = useMemo(
    () => (valuesBeside ? LEAST_PLOT_BESIDE : leastPlot(window.innerHeight)),
    [valuesBeside, height],
  )
  // Before it is measured it has all the room.
  const spare = height === 0 ? Number.POSITIVE_INFINITY : height - around - least
  const isFolded = isRead && spare < READING_HEIGHT + (valuesBeside ? 0 : COMFORTABLE_VALUES)
  const readingShown = isRead && (!isFolded || readingInFront)
  const valuesShown = !isFolded || !readingInFront
  // Beside the values it is the picture that takes turns with what is read.
  const isTurned = valuesBeside && isFolded
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
      <div>
        {tools}
        {isTurned && <ReadingTabs beside="Equaliser" />}
      </div>
      {!(isTurned && readingShown) && (
        <SheetPlot
          node={node}
          treatments={treatments}
          bands={bands}
          editing={editing}
          shown={treatment}
          over={over}
        />
      )}
      {isFolded && !isTurned && <ReadingTabs beside="Settings" />}
      {readingShown && (
        <Box
          sx={{
            display: 'grid',
            height: isTurned ? undefined : READING_HEIGHT,
            minHeight: 0,
            borderTop: 1,
            borderColor: 'divider',
          }}
        >
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
            gridTemplateColumns: 'minmax(0, 1fr)',
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
    <Box
      ref={ref}
      sx={{
        display: 'grid',
        gridTemplateColumns: 'minmax(0, 1fr)',
        gridTemplateRows: rows,
        minWidth: 0,
        minHeight: 0,
      }}
    >
      {picture}
      {valuesShown && values}
    </Box>
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
