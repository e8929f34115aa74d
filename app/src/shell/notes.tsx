import { Notices } from './notices'
import { StorageNote } from './storage-note'

/** What is told over the page: fetched when there is something to tell. */
export default function Notes({ onSessionsChanged }: { onSessionsChanged: () => void }) {
  return (
    <>
      <StorageNote />
      <Notices onSessionsChanged={onSessionsChanged} />
    </>
  )
}
