import { Running } from '../controls/running'
import { useOpenSession, useSignal } from './desk-context'
import styles from './shell.module.css'

/** Long work of the session, seen from every step. */
export function WorkNote() {
  const { imports, deliver } = useOpenSession()
  const files = useSignal(imports.files)
  const work = useSignal(deliver.work)
  const left = files.filter((f) => f.state.kind === 'waiting' || f.state.kind === 'busy').length
  return (
    <div className={styles.workNote} role="status">
      {left > 0 && (
        <Running
          what={`${left} of ${files.length} files to come in`}
          share={1 - left / files.length}
          onCancel={() => imports.cancel()}
        />
      )}
      {work && <Running what={work.what} share={work.share} onCancel={() => deliver.cancel()} />}
    </div>
  )
}
