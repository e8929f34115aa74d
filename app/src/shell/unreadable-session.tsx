import Button from '@mui/material/Button'
import {
  errorSentence,
  exportRaw,
  restoreLastGood,
  type UnreadableError,
} from '@sober-prism/engine'
import { download } from '../jobs/download'
import { interfaceActions } from '../store/interface-slice'
import { useAppDispatch } from '../store/store'
import { PageNote } from './page-note'

interface UnreadableSessionProps {
  readonly error: UnreadableError
  readonly onRestored: () => void
}

/** A stored session that cannot be read: the ways to what is in it. */
export function UnreadableSession({ error, onRestored }: UnreadableSessionProps) {
  const dispatch = useAppDispatch()
  const { sessionId, lastGoodAt, message } = error
  const tried = async (work: () => Promise<void>) => {
    try {
      await work()
    } catch (problem) {
      dispatch(interfaceActions.noticeShown(errorSentence(problem), 'warning'))
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
    <PageNote alert text={message}>
      {lastGoodAt !== null && (
        <Button variant="contained" onClick={() => void restore()}>
          Open the last readable state, {new Date(lastGoodAt).toLocaleString()}
        </Button>
      )}
      <Button onClick={() => void save()}>Export the stored data</Button>
    </PageNote>
  )
}
