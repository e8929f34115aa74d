import Box from '@mui/material/Box'
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
import { SkipLinks } from './skip-links'

const HelpDialog = lazy(() => import('./help-dialog'))
const PresetsDialog = lazy(() => import('../sheet/presets/presets-dialog'))
const CommandsDialog = lazy(() => import('./commands-dialog'))

/** What stands around every step: the steps above, time and listening below. */
export function Frame() {
  const eyesClosed = useAppSelector((root) => root.interface.eyesClosed)
  const commandsOpen = useAppSelector((root) => root.interface.commandsOpen)
  const helpOpen = useAppSelector((root) => root.interface.helpOpen)
  const presetsOpen = useAppSelector((root) => root.interface.presetsOpen)
  const open = useOpenSession()
  const navigate = useNavigate()
  const { id = '' } = useParams()
  const commands = useMemo(
    () => commandsAt({ store, open, go: (step) => void navigate(`/session/${id}/${step}`) }),
    [open, navigate, id],
  )
  useKeys(commands)
  return (
    <Box
      sx={{ display: 'flex', flexDirection: 'column', height: '100dvh', overflow: 'hidden' }}
      data-eyes={eyesClosed ? 'closed' : 'open'}
    >
      <SkipLinks />
      <Header />
      <KeepingNote />
      <Outlet />
      <TransportBar />
      <LeaveGuard />
      {helpOpen && (
        <Suspense>
          <HelpDialog />
        </Suspense>
      )}
      {presetsOpen && (
        <Suspense>
          <PresetsDialog />
        </Suspense>
      )}
      {commandsOpen && (
        <Suspense>
          <CommandsDialog commands={commands} />
        </Suspense>
      )}
    </Box>
  )
}
