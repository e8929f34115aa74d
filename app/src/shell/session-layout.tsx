import Button from '@mui/material/Button'
import { useEffect, useState } from 'react'
import { useParams } from 'react-router'
import { useAppSelector } from '../store/store'
import { OpenSessionContext } from './desk-context'
import { Frame } from './frame'
import { type Opening, openHere } from './open-here'
import { PageNote } from './page-note'
import { UnreadableSession } from './unreadable-session'

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
    </OpenSessionContext.Provider>
  )
}
