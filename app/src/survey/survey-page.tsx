import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import { Link } from 'react-router'
import { EmptyPlace } from '../controls/empty-place'
import { Halves } from '../controls/halves'
import { Intro } from '../controls/intro'
import { Pane } from '../controls/layout'
import { EqualiserSheet } from '../sheet/equaliser-sheet'
import { Step } from '../shell/step'
import { useRouting } from '../store/selectors'
import { FindingsPane } from './findings-pane'
import { Strips } from './strips'

/** Strips take what they need, and no more than leaves the sheet its room. */
const HEAD_PIXELS = 130
const ROW_PIXELS = 37
const MOST_PIXELS = 356
/** What stays of folded strips: the mix and the ruler. */
const FOLDED_PIXELS = 84

/** The whole first: every track, the mix and a reference on one ruler, and what covers the lead. */
export function Component() {
  const session = useRouting()
  const rows = session.tracks.length + session.groups.length
  const strips = Math.min(MOST_PIXELS, HEAD_PIXELS + ROW_PIXELS * rows)
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
        <Box sx={{ minHeight: 0, minWidth: 0, overflowY: 'auto', '& > div': { minHeight: 430 } }}>
          <Halves
            upper={<Strips />}
            lower={<EqualiserSheet />}
            dividerName="Divider between strips and sheet"
            upperSize={{
              defaultSize: `${strips}px`,
              minSize: '200px',
              collapsible: true,
              collapsedSize: `${FOLDED_PIXELS}px`,
            }}
          />
        </Box>
      )}
    </Step>
  )
}
