import Box from '@mui/material/Box'
import { Intro } from '../controls/intro'
import { isOnItsWay } from '../jobs/import-jobs'
import { useOpenSession, useSignal } from '../shell/desk-context'
import { Step } from '../shell/step'
import { openSession } from '../store/selectors'
import { useAppSelector } from '../store/store'
import { GroupTable } from './group-table'
import { ImportList } from './import-list'
import { References } from './references'
import { SessionFields } from './session-fields'
import { TrackDrop } from './track-drop'
import { TrackTable } from './track-table'
import { WorkingLevels } from './working-levels'

/** Import tracks and references, name them, set their roles and levels. */
export function Component() {
  const hasTracks = useAppSelector((root) => openSession(root).tracks.length > 0)
  return (
    <Step
      intro={
        <Intro step="gather">Import tracks and references, set roles and working levels.</Intro>
      }
      evidenceName="References and levels"
      evidence={
        <>
          <References />
          <WorkingLevels />
        </>
      }
    >
      <Box
        sx={{ display: 'grid', gridTemplateRows: 'auto minmax(0, 1fr)', minHeight: 0, minWidth: 0 }}
      >
        <Fields />
        <TrackDrop>
          <Incoming />
          {hasTracks && (
            <>
              <TrackTable />
              <GroupTable />
            </>
          )}
        </TrackDrop>
      </Box>
    </Step>
  )
}

// Files report many times a second: what stands beside them is not drawn anew for it.
function Fields() {
  const { imports } = useOpenSession()
  return <SessionFields busy={useSignal(imports.files).some(isOnItsWay)} />
}

function Incoming() {
  const { imports } = useOpenSession()
  const files = useSignal(imports.files)
  return (
    <ImportList
      files={files}
      busy={files.some(isOnItsWay)}
      onCancel={() => imports.cancel()}
      onClear={() => imports.clear()}
    />
  )
}
