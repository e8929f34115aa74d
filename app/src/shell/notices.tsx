import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Snackbar from '@mui/material/Snackbar'
import { restoreSession } from '@sober-prism/engine'
import { undo } from '../store/history'
import { interfaceActions } from '../store/interface-slice'
import { useAppDispatch, useAppSelector } from '../store/store'

const INFO_MS = 6000
const WARNING_MS = 20000

/** The last short message, with undo where the thing can be taken back. It stands where it covers no control. */
export function Notices({ onSessionsChanged }: { onSessionsChanged: () => void }) {
  const notice = useAppSelector((root) => root.interface.notice)
  const dispatch = useAppDispatch()
  if (!notice) return null
  const isWarning = notice.kind === 'warning'
  const takeBack = async () => {
    dispatch(interfaceActions.noticeClosed())
    if (notice.undo === 'edit') dispatch(undo())
    else if (notice.undo) {
      await restoreSession(notice.undo.deletedSession)
      onSessionsChanged()
    }
  }
  return (
    <Snackbar
      key={notice.id}
      open
      autoHideDuration={isWarning ? WARNING_MS : INFO_MS}
      onClose={(_, reason) => {
        if (reason !== 'clickaway') dispatch(interfaceActions.noticeClosed())
      }}
      anchorOrigin={{ vertical: 'top', horizontal: 'center' }}
      sx={{ '&&': { top: 4, left: '61%', maxWidth: 'min(480px, 90vw)' } }}
    >
      <Alert
        severity={isWarning ? 'warning' : 'info'}
        role={isWarning ? 'alert' : 'status'}
        data-testid="notice"
        sx={isWarning ? undefined : { bgcolor: 'text.primary', color: 'background.default' }}
        action={
          <>
            {notice.undo && <Button onClick={() => void takeBack()}>Undo</Button>}
            <Button onClick={() => dispatch(interfaceActions.noticeClosed())}>Close</Button>
          </>
        }
      >
        {notice.text}
      </Alert>
    </Snackbar>
  )
}
