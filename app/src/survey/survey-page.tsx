import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import { useCallback } from 'react'
import { Link } from 'react-router'
import { EmptyPlace } from '../controls/empty-place'
import { Halves } from '../controls/halves'
import { Intro } from '../controls/intro'
import { Pane } from '../controls/layout'
import { EqualiserSheet } from '../sheet/equaliser-sheet'
import { READING_HEIGHT } from '../sheet/reading/reading-panel'
import { selectSheet } from '../sheet/sheet-slice'
import { Step } from '../shell/step'
import { interfaceActions } from '../store/interface-slice'
import { useRouting } from '../store/selectors'
import { useAppDispatch, useAppSelector } from '../store/store'
import { useSize } from '../use-size'
import { FindingsPane } from './findings-pane'
import { SheetLine } from './sheet-line'
import { Strips, showSheet } from './strips'

const WORK = { minHeight: 0, minWidth: 0, overflowY: 'auto', '& > div': { minHeight: 430 } }

/** What stands around the rows: the tools over them, the mix, the ruler, and a reference. */
const AROUND_PIXELS = 126
const REFERENCE_PIXELS = 33
/** Rows at full height and at the least, as tracks.module.css has them; one stands at its full height always. */
const FULL_ROW = 45
const LEAST_ROW = 19
/** The sheet and the divider over it. */
const SHEET_PIXELS = 280
/** The sheet at the least, however far its divider is moved. */
const LEAST_SHEET = 190
/** Strips that scroll, at the least. */
const LEAST_STRIPS = 200
/** A height that differs by this is another one. */
const ANEW_PIXELS = 80
/** What stays of folded strips: the mix and the ruler. */
const FOLDED_PIXELS = 84

/** The whole first: every track, the mix and a reference on one ruler, and what covers the lead. */
export function Component() {
  const session = useRouting()
  const dispatch = useAppDispatch()
  const shown = useAppSelector((root) => root.interface.surveySheet)
  const isRead = useAppSelector(selectSheet).reading.kind !== 'off'
  const [ref, { height }] = useSize<HTMLDivElement>()
  const rows = session.tracks.length + session.groups.length
  const around = AROUND_PIXELS + (session.references.length > 0 ? REFERENCE_PIXELS : 0)
  const least = around + FULL_ROW + (rows - 1) * LEAST_ROW
  // What is read of the chain stands under the sheet's picture, or takes turns with it where rows would be lost.
  const reading = isRead && least + SHEET_PIXELS + READING_HEIGHT <= height ? READING_HEIGHT : 0
  const sheetPixels = SHEET_PIXELS + reading
  // Where not all rows can be seen above it, the sheet is the one that gives way.
  const sheetShown = shown ?? (height === 0 || least + SHEET_PIXELS <= height)
  const strips = Math.max(LEAST_STRIPS, Math.min(around + rows * FULL_ROW, height - sheetPixels))
  const show = (sheet: boolean) => void dispatch(interfaceActions.surveySheetShown(sheet))
  const openSheet = useCallback((node: string) => showSheet(dispatch, node), [dispatch])
  return (
    <Step
      intro={
        <Intro step="survey">
          See the whole first: what masks what, where energy builds up, what a move would gain.
        </Intro>
      }
      evidenceName="Findings"
      evidence={<FindingsPane />}
      holdsTracks={session.tracks.length > 0}
    >
      {session.tracks.length === 0 ? (
        <Pane sx={{ p: '24px' }}>
          <EmptyPlace text="No tracks yet. Import tracks to see their spectra on one ruler.">
            <Button variant="contained" component={Link} to="../gather" relative="path">
              Import tracks
            </Button>
          </EmptyPlace>
        </Pane>
      ) : (
        <Box ref={ref} sx={WORK}>
          {sheetShown ? (
            <Halves
              // The room is divided anew when something comes in, and in another window.
              key={`${isRead} ${Math.round(height / ANEW_PIXELS)}`}
              upper={<Strips onSheet={null} />}
              lower={<EqualiserSheet valuesBeside onHide={() => show(false)} />}
              dividerName="Divider between strips and sheet"
              upperSize={{
                defaultSize: `${strips}px`,
                minSize: `${LEAST_STRIPS}px`,
                collapsible: true,
                collapsedSize: `${FOLDED_PIXELS}px`,
              }}
              lowerLeast={LEAST_SHEET + reading}
            />
          ) : (
            <Box sx={{ display: 'grid', gridTemplateRows: 'minmax(0, 1fr) auto', height: '100%' }}>
              <Strips onSheet={openSheet} />
              <SheetLine onShow={() => show(true)} />
            </Box>
          )}
        </Box>
      )}
    </Step>
  )
}
