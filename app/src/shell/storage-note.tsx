import Alert from '@mui/material/Alert'
import { storageTrouble } from '@sober-prism/engine'
import { useSignal } from './desk-context'

/** What stands between this page and its storage, for as long as it does. */
export function StorageNote() {
  const trouble = useSignal(storageTrouble)
  return trouble === null ? null : (
    <Alert severity="warning" sx={{ position: 'fixed', inset: '0 0 auto', zIndex: 'tooltip' }}>
      {trouble}
    </Alert>
  )
}
