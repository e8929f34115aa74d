import Button from '@mui/material/Button'
import LinearProgress from '@mui/material/LinearProgress'
import { useOpenSession, useSignal } from './desk-context'

/** Long work of the session, seen from every step. */
export function WorkNote() {
  const { imports, deliver } = useOpenSession()
  const files = useSignal(imports.files)
  const work = useSignal(deliver.work)
  const left = files.filter((f) => f.state.kind === 'waiting' || f.state.kind === 'busy').length
  return (
    <div className="work-note" role="status">
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

interface RunningProps {
  readonly what: string
  readonly share: number
  readonly onCancel: () => void
}

function Running({ what, share, onCancel }: RunningProps) {
  return (
    <span className="running">
      <span className="clip" title={what}>
        {what}
      </span>
      <LinearProgress variant="determinate" value={100 * share} aria-label={what} />
      <Button size="small" onClick={onCancel} aria-label={`Cancel: ${what}`}>
        Cancel
      </Button>
    </span>
  )
}
