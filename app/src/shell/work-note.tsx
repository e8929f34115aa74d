import { Row } from '../controls/layout'
import { Running } from '../controls/running'
import { useOpenSession, useSignal } from './desk-context'

/** Long work of the session, seen from every step. */
export function WorkNote() {
  const { imports, deliver } = useOpenSession()
  const files = useSignal(imports.files)
  const work = useSignal(deliver.work)
  const left = files.filter((f) => f.state.kind === 'waiting' || f.state.kind === 'busy').length
  return (
    <Row sx={{ flexWrap: 'nowrap', gap: '14px', minWidth: 0 }} role="status">
      {left > 0 && (
        <Running
          what={`${left} of ${files.length} files to import`}
          share={1 - left / files.length}
          onCancel={() => imports.cancel()}
        />
      )}
      {work && <Running what={work.what} share={work.share} onCancel={() => deliver.cancel()} />}
    </Row>
  )
}
