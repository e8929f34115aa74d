import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import { errorSentence, takeOverSession } from '@sober-prism/engine'
import { useNavigate } from 'react-router'
import { interfaceActions } from '../store/interface-slice'
import { openSession } from '../store/selectors'
import { store, useAppDispatch } from '../store/store'
import { useOpenSession, useSignal } from './desk-context'

/** Stands there for as long as the newest state of the session is not stored, with what one can do about it. */
export function KeepingNote() {
  const { keeper, deliver } = useOpenSession()
  const keeping = useSignal(keeper.state)
  const saving = useSignal(deliver.work) !== null
  const dispatch = useAppDispatch()
  const navigate = useNavigate()
  if (keeping.kind !== 'refused') return null
  const keepThis = async () => {
    try {
      await takeOverSession(openSession(store.getState()).id)
      await keeper.save()
    } catch (error) {
      dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning'))
    }
  }
  const saveFile = () => void deliver.save(openSession(store.getState()), false)
  const action = (
    <>
      {keeping.conflict ? (
        <>
          <Button onClick={() => void keepThis()}>Keep what is here</Button>
          <Button onClick={() => navigate(0)}>Open what is stored</Button>
        </>
      ) : (
        <Button onClick={() => void keeper.save()}>Try again</Button>
      )}
      <Button disabled={saving} onClick={saveFile}>
        Save as a file
      </Button>
    </>
  )
  return (
    <Alert severity="warning" role="alert" action={action}>
      <strong>Not saved.</strong> {keeping.sentence}
    </Alert>
  )
}
