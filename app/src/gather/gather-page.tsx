import { Intro } from '../controls/intro'
import { useOpenSession, useSignal } from '../shell/desk-context'
import { Step } from '../shell/step'
import { useSession } from '../store/selectors'
import styles from './gather.module.css'
import { GroupTable } from './group-table'
import { ImportList } from './import-list'
import { References } from './references'
import { SessionFields } from './session-fields'
import { TrackDrop } from './track-drop'
import { TrackTable } from './track-table'
import { WorkingLevels } from './working-levels'

/** Bring in tracks and references, name them, set their roles and levels. */
export function Component() {
  const session = useSession()
  const { imports } = useOpenSession()
  const files = useSignal(imports.files)
  const busy = files.some((f) => f.state.kind === 'waiting' || f.state.kind === 'busy')
  return (
    <Step
      intro={
        <Intro step="gather">
          Bring in the tracks of a piece and recordings you trust, say what is what, and set levels
          to work at.
        </Intro>
      }
      evidenceName="References and levels"
      evidence={
        <>
          <References />
          <WorkingLevels />
        </>
      }
    >
      <div className={styles.gather}>
        <SessionFields busy={busy} />
        <TrackDrop>
          <ImportList
            files={files}
            busy={busy}
            onCancel={() => imports.cancel()}
            onClear={() => imports.clear()}
          />
          {session.tracks.length > 0 && (
            <>
              <TrackTable />
              <GroupTable />
            </>
          )}
        </TrackDrop>
      </div>
    </Step>
  )
}
