import { lazy, Suspense, useMemo } from 'react'
import { Outlet, useNavigate, useParams } from 'react-router'
import { store, useAppSelector } from '../store/store'
import { TransportBar } from '../transport/transport-bar'
import { commandsAt } from './commands'
import { useOpenSession } from './desk-context'
import { Header } from './header'
import { KeepingNote } from './keeping-note'
import { useKeys } from './keys'
import { LeaveGuard } from './leave-guard'
import styles from './shell.module.css'

const CommandsDialog = lazy(() => import('./commands-dialog'))

/** What stands around every step: the steps above, time and listening below. */
export function Frame() {
  const eyesClosed = useAppSelector((root) => root.interface.eyesClosed)
  const commandsOpen = useAppSelector((root) => root.interface.commandsOpen)
  const open = useOpenSession()
  const navigate = useNavigate()
  const { id = '' } = useParams()
  const commands = useMemo(
    () => commandsAt({ store, open, go: (step) => navigate(`/session/${id}/${step}`) }),
    [open, navigate, id],
  )
  useKeys(commands)
  return (
    <div className={styles.frame} data-eyes={eyesClosed ? 'closed' : 'open'}>
      <Header />
      <KeepingNote />
      <Outlet />
      <TransportBar />
      <LeaveGuard />
      {commandsOpen && (
        <Suspense>
          <CommandsDialog commands={commands} />
        </Suspense>
      )}
    </div>
  )
}
