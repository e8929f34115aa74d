import Button from '@mui/material/Button'
import { useEffect, useState } from 'react'
import { useParams } from 'react-router'
import { doubtsOf } from '../check/doubts'
import { interfaceActions } from '../store/interface-slice'
import { openSession } from '../store/selectors'
import { store, useAppDispatch, useAppSelector } from '../store/store'
import { OpenSessionContext } from './desk-context'
import { Frame } from './frame'
import { type Opening, openHere } from './open-here'
import { PageNote } from './page-note'
import { UnreadableSession } from './unreadable-session'

/** Says once that something was kept for rested ears. */
function DoubtsNote() {
  const dispatch = useAppDispatch()
  useEffect(() => {
    const { rested } = doubtsOf(openSession(store.getState()))
    if (rested.length === 0) return
    const [what, wait] =
      rested.length === 1 ? ['One doubt', 'waits'] : [`${rested.length} doubts`, 'wait']
    const said = `${what} of another day ${wait} in Check, under Second look.`
    dispatch(interfaceActions.noticeShown(said))
  }, [dispatch])
  return null
}

/** Opens the session of the route, keeps it stored, and gives the pages below its desk. */
export function Component() {
  const { id = '' } = useParams()
  const [opening, setOpening] = useState<Opening>({ kind: 'loading' })
  const isThere = useAppSelector((root) => root.session.present !== null)

  useEffect(() => openHere(id, setOpening), [id])

  if (opening.kind === 'failed') return <PageNote alert text={opening.sentence} />
  if (opening.kind === 'unreadable') {
    return <UnreadableSession error={opening.error} onRestored={opening.again} />
  }
  if (opening.kind === 'elsewhere') {
    return (
      <PageNote
        text={`This session is open in another window. ${opening.objection ?? 'Taking over saves the work there and continues here.'}`}
      >
        <Button variant="contained" onClick={opening.takeOver}>
          {opening.objection === null ? 'Take over here' : 'Take over anyway'}
        </Button>
      </PageNote>
    )
  }
  if (opening.kind === 'loading' || !isThere) return <PageNote busy text="Opening the session…" />
  return (
    <OpenSessionContext.Provider value={opening.open}>
      <Frame />
      <DoubtsNote />
    </OpenSessionContext.Provider>
  )
}
