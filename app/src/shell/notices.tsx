import Snackbar from '@mui/material/Snackbar'
import { restoreSession } from '@sober-prism/engine'
import { undo } from '../store/history'
import { interfaceActions } from '../store/interface-slice'
import { useRoot, useSend } from '../store/store'

const INFO_MS = 6000
const WARNING_MS = 20000

/** The last short message, with undo where the thing can be taken back. */
export function Notices({ onSessionsChanged }: { onSessionsChanged: () => void }) {
  const notice = useRoot((root) => root.interface.notice)
  const send = useSend()
  if (!notice) return null
  const takeBack = async () => {
    send(interfaceActions.noticeClosed())
    if (notice.undo === 'edit') send(undo())
    else if (notice.undo) {
      await restoreSession(notice.undo.deletedSession)
      onSessionsChanged()
    }
  }
  return (
    <Snackbar
      key={notice.id}
      open
      autoHideDuration={notice.kind === 'info' ? INFO_MS : WARNING_MS}
      onClose={(_, reason) => {
        if (reason !== 'clickaway') send(interfaceActions.noticeClosed())
      }}
      anchorOrigin={{ vertical: 'top', horizontal: 'center' }}
      className="notice-place"
    >
      <div
        className="notice"
        data-kind={notice.kind}
        role={notice.kind === 'warning' ? 'alert' : 'status'}
      >
        <span>{notice.text}</span>
        {notice.undo && (
          <button type="button" onClick={() => void takeBack()}>
            Undo
          </button>
        )}
        <button type="button" onClick={() => send(interfaceActions.noticeClosed())}>
          Close
        </button>
      </div>
    </Snackbar>
  )
}
