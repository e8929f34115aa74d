import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import { useEffect, useState } from 'react'
import { useBlocker } from 'react-router'
import { openSession } from '../store/selectors'
import { store } from '../store/store'
import { type OpenSession, useOpenSession } from './desk-context'

/** What leaving now would end or lose, as a sentence; null when it is nothing. */
function lossOf({ keeper, imports, deliver }: OpenSession): string | null {
  if (keeper.state.value.kind === 'refused') {
    return 'The last changes are not saved: this browser refused to store them.'
  }
  if (imports.busy) return 'Files are still importing; leaving stops them.'
  if (deliver.work.value) return 'Files are still rendering; leaving stops them.'
  return null
}

/** Asks before the session is left with something unsaved or under way. */
export function LeaveGuard() {
  const open = useOpenSession()
  const { keeper, deliver } = open
  const [loss, setLoss] = useState<string | null>(null)
  const blocker = useBlocker(({ currentLocation, nextLocation }) => {
    const [, , id] = currentLocation.pathname.split('/')
    if (nextLocation.pathname.startsWith(`/session/${id}`)) return false
    return keeper.state.value.kind !== 'kept' || lossOf(open) !== null
  })

  useEffect(() => {
    if (blocker.state !== 'blocked') return
    // What is merely on its way is stored first; only what is refused is asked about.
    void keeper.save().then(() => {
      const found = lossOf(open)
      if (found === null) blocker.proceed()
      else setLoss(found)
    })
  }, [blocker, keeper, open])

  useEffect(() => {
    const ask = (event: BeforeUnloadEvent) => {
      if (keeper.atRisk || lossOf(open) !== null) event.preventDefault()
    }
    window.addEventListener('beforeunload', ask)
    return () => window.removeEventListener('beforeunload', ask)
  }, [keeper, open])

  const stay = () => {
    setLoss(null)
    blocker.reset?.()
  }
  return (
    <Dialog open={loss !== null} onClose={stay} aria-labelledby="leave-title">
      <DialogTitle id="leave-title">Leave this session?</DialogTitle>
      <DialogContent>{loss}</DialogContent>
      <DialogActions>
        <Button
          onClick={() => {
            setLoss(null)
            blocker.proceed?.()
          }}
        >
          Leave
        </Button>
        <Button onClick={() => void deliver.save(openSession(store.getState()), false)}>
          Save as a file
        </Button>
        <Button variant="contained" autoFocus onClick={stay}>
          Stay
        </Button>
      </DialogActions>
    </Dialog>
  )
}
