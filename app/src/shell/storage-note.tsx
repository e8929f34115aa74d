import { storageTrouble } from '@sober-prism/engine'
import { useSyncExternalStore } from 'react'

/** What stands between this page and its storage, for as long as it does. */
export function StorageNote() {
  const trouble = useSyncExternalStore(storageTrouble.watch, storageTrouble.read)
  return trouble === null ? null : (
    <p className="storage-note" role="alert">
      {trouble}
    </p>
  )
}
