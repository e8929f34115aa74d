import Button from '@mui/material/Button'
import {
  errorSentence,
  exportRaw,
  restoreLastGood,
  type UnreadableError,
} from '@sober-prism/engine'
import { Link } from 'react-router'
import { download } from '../deliver/download'
import { interfaceActions } from '../store/interface-slice'
import { useSend } from '../store/store'

interface UnreadableSessionProps {
  readonly error: UnreadableError
  readonly onRestored: () => void
}

/** A stored session that cannot be read: the ways to what is in it. */
export function UnreadableSession({ error, onRestored }: UnreadableSessionProps) {
  const send = useSend()
  const { sessionId, lastGoodAt, message } = error
  const tried = async (work: () => Promise<void>) => {
    try {
      await work()
    } catch (problem) {
      send(interfaceActions.noticeShown(errorSentence(problem), 'warning'))
    }
  }
  const save = () =>
    tried(async () => {
      const blob = new Blob([await exportRaw(sessionId)], { type: 'application/json' })
      download('unreadable-session.json', blob)
    })
  const restore = () =>
    tried(async () => {
      await restoreLastGood(sessionId)
      onRestored()
    })
  return (
    <main className="page-note">
      <p role="alert">{message}</p>
      {lastGoodAt !== null && (
        <Button variant="contained" color="primary" onClick={() => void restore()}>
          Open the last state that can be read, of {new Date(lastGoodAt).toLocaleString()}
        </Button>
      )}
      <Button onClick={() => void save()}>Save what is stored as a file</Button>
      <Link to="/">All sessions</Link>
    </main>
  )
}
