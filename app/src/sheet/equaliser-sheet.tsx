import Box from '@mui/material/Box'
import Typography from '@mui/material/Typography'
import { chainOf } from '@sober-prism/core/session'
import type { ChainBand, Treatment } from '@sober-prism/core/treatments'
import type { ReactNode } from 'react'
import { shallowEqual } from 'react-redux'
import { Beside, Row } from '../controls/layout'
import { RulerPlot } from '../plot/ruler-plot'
import { interfaceActions } from '../store/interface-slice'
import { chosenNode, nodeName, openSession, shownTreatment, useRouting } from '../store/selectors'
import { type RootState, store, useAppDispatch, useAppSelector } from '../store/store'
import { useBandClipboard } from './bands/band-clipboard'
import { BandEditor } from './bands/band-editor'
import { type BandEditing, useBands } from './bands/use-bands'
import { ChainPanel } from './chain/chain-panel'
import { TreatmentEditor } from './chain/treatment-editor'
import { bandLetter } from './layers/survey-mark'
import { STAGE_NAMES } from './names'
import { ChainReading } from './reading/chain-reading'
import { SheetPlot } from './sheet-plot'
import type { SheetScale } from './sheet-scale'
import { SheetTools } from './sheet-tools'

const NO_BANDS: readonly ChainBand[] = []
const NO_TREATMENTS: readonly Treatment[] = []

interface EqualiserSheetProps {
  /** What a step does on the sheet, over its picture. */
  readonly over?: (scale: SheetScale, editing: BandEditing) => ReactNode
  /** Whether it bears the ruler itself, where no picture above it does. */
  readonly ruler?: boolean
  /** Puts it away, where that is possible. */
  readonly onHide?: () => void
}

/** Where a window is low, or seen at twice its size, the sheet keeps its height and scrolls. */
const LOW = {
  '@media (max-height: 560px)': { overflowY: 'auto', '& > div': { minHeight: 400 } },
}

/** The chain of the chosen track, group or mix, and its treatment on the one ruler. */
export function EqualiserSheet({ over, ruler = false, onHide }: EqualiserSheetProps) {
  const node = useAppSelector(chosenNode)
  const name = nodeName(useRouting(), node)
  const stage = useAppSelector((root) => root.interface.stage)
  const equaliserId = useAppSelector((root) => equaliserOf(onSheet(root, node).treatment)?.id)
  const editing = useBands(node, stage, equaliserId ?? null)
  const dispatch = useAppDispatch()
  useBandClipboard()
  return (
    <Beside
      sx={LOW}
      aria-label={`Equaliser of ${name}`}
      onKeyDown={(event) => {
        const isFlag = event.target instanceof Element && event.target.matches('[data-kind="flag"]')
        if (!isFlag || !(event.ctrlKey || event.metaKey) || event.key !== 'a') return
        event.preventDefault()
        const { treatment } = onSheet(store.getState(), node)
        dispatch(interfaceActions.bandsChosen(bandsIn(treatment).map((m) => m.id)))
      }}
    >
      <ChainPanel />
      <Box
        sx={{
          display: 'grid',
          gridTemplateRows: 'auto minmax(0, 1fr) auto auto',
          minHeight: 0,
          minWidth: 0,
        }}
      >
        <div>
          <SheetTools node={node} editing={editing} onHide={onHide} />
          {ruler && (
            <Box sx={{ display: 'grid', gridTemplateRows: '34px' }}>
              <RulerPlot />
            </Box>
          )}
        </div>
        <Work node={node} editing={editing} over={over} />
      </Box>
    </Beside>
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

interface WorkProps extends Pick<EqualiserSheetProps, 'over'> {
  readonly node: string
  readonly editing: BandEditing
}

/** What follows each step of a drag: the picture, what is read below it, and the values. */
function Work({ node, editing, over }: WorkProps) {
  const { treatments, treatment } = useAppSelector((root) => onSheet(root, node), shallowEqual)
  const bands = bandsIn(treatment)
  return (
    <>
      <SheetPlot
        node={node}
        treatments={treatments}
        bands={bands}
        editing={editing}
        shown={treatment}
        over={over}
      />
      <ChainReading node={node} treatments={treatments} shown={treatment} />
      <Row
        sx={{
          gap: '3px 10px',
          maxHeight: 240,
          overflowY: 'auto',
          minHeight: 38,
          p: '4px 12px 5px 10px',
          borderTop: 1,
          borderColor: 'divider',
        }}
      >
        {treatment && <TreatmentEditor node={node} treatment={treatment} />}
        {(!treatment || treatment.kind === 'equaliser') && (
          <BandRow node={node} bands={bands} editing={editing} />
        )}
      </Row>
    </>
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
