import Button from '@mui/material/Button'
import { MIX } from '@sober-prism/core/treatments'
import {
  type Desk,
  errorSentence,
  holdAudio,
  loadSession,
  SessionKeeper,
  SessionLock,
  UnreadableError,
} from '@sober-prism/engine'
import { useEffect, useState } from 'react'
import { Link, Outlet, useParams } from 'react-router'
import { DeliverJobs } from '../deliver/deliver-jobs'
import { ImportJobs } from '../gather/import-jobs'
import { interfaceActions } from '../store/interface-slice'
import { sessionActions } from '../store/session-slice'
import { store, useRoot, useSend } from '../store/store'
import { TransportBar } from '../transport/transport-bar'
import { type OpenSession, OpenSessionContext } from './desk-context'
import { type Following, followSession } from './follow-session'
import { Header } from './header'
import { KeepingNote } from './keeping-note'
import { useKeys } from './keys'
import { LeaveGuard } from './leave-guard'
import { UnreadableSession } from './unreadable-session'

type Opening =
  | { kind: 'loading' }
  | { kind: 'failed'; sentence: string }
  | { kind: 'unreadable'; error: UnreadableError; again: () => void }
  | { kind: 'elsewhere'; takeOver: () => void }
  | { kind: 'open'; open: OpenSession }

/** Opens the session of the route, keeps it stored, and gives the pages below its desk. */
export function SessionLayout() {
  const { id = '' } = useParams()
  const [opening, setOpening] = useState<Opening>({ kind: 'loading' })
  const present = useRoot((root) => root.session.present)

  useEffect(() => openHere(id, setOpening), [id])

  if (opening.kind === 'failed') {
    return (
      <main className="page-note">
        <p>{opening.sentence}</p>
        <Link to="/">All sessions</Link>
      </main>
    )
  }
  if (opening.kind === 'unreadable') {
    return <UnreadableSession error={opening.error} onRestored={opening.again} />
  }
  if (opening.kind === 'elsewhere') {
    return (
      <main className="page-note">
        <p role="status">
          This session is open in another window. Taking over stores what was done there, and goes
          on here.
        </p>
        <Button variant="contained" color="primary" onClick={opening.takeOver}>
          Take over here
        </Button>
        <Link to="/">All sessions</Link>
      </main>
    )
  }
  if (opening.kind === 'loading' || !present) {
    return (
      <main className="page-note">
        <p role="status">Opening the session …</p>
      </main>
    )
  }
  return (
    <OpenSessionContext.Provider value={opening.open}>
      <Workplace />
    </OpenSessionContext.Provider>
  )
}

/** Opens a session as soon as no other window works on it, and lets go when one takes over. */
function openHere(id: string, show: (opening: Opening) => void): () => void {
  const lock = new SessionLock(id)
  const letGo = holdAudio()
  let keeper: SessionKeeper | null = null
  let imports: ImportJobs | null = null
  let deliver: DeliverJobs | null = null
  let following: Following | null = null
  let opened = false
  let closed = false
  const open = async () => {
    opened = true
    try {
      const loaded = await loadSession(id)
      if (closed || lock.holder.value !== 'here') return
      if (!loaded) return show({ kind: 'failed', sentence: 'This session is not in this browser.' })
      const { session, rescued } = loaded
      store.dispatch(sessionActions.opened(session))
      store.dispatch(interfaceActions.nodeChosen(session.tracks[0]?.id ?? MIX))
      if (rescued.length > 0) store.dispatch(interfaceActions.noticeShown(RESCUED, 'warning'))
      const work = {
        keeper: new SessionKeeper(session),
        imports: new ImportJobs(),
        deliver: new DeliverJobs(),
      }
      ;({ keeper, imports, deliver } = work)
      const showDesk = (desk: Desk) => {
        if (import.meta.env.MODE === 'test') Object.assign(window, { soberPrism: { desk } })
        show({ kind: 'open', open: { ...work, desk } })
      }
      following = followSession(keeper, session.sampleRateHz, showDesk)
      showDesk(following.desk)
    } catch (error) {
      if (closed) return
      if (error instanceof UnreadableError) {
        return show({ kind: 'unreadable', error, again: () => void open() })
      }
      show({ kind: 'failed', sentence: errorSentence(error) })
    }
  }
  const close = () => {
    imports?.cancel()
    deliver?.cancel()
    following?.stop()
    following = null
    opened = false
    store.dispatch(sessionActions.opened(null))
  }
  const follow = () => {
    if (lock.holder.value === 'here' && !opened) void open()
    if (lock.holder.value !== 'elsewhere') return
    close()
    show({ kind: 'elsewhere', takeOver: () => lock.takeOver() })
  }
  lock.onTakenOver = async () => {
    await keeper?.save()
  }
  const unwatch = lock.holder.watch(follow)
  follow()
  return () => {
    closed = true
    unwatch()
    close()
    letGo()
    lock.close()
    show({ kind: 'loading' })
  }
}

const RESCUED =
  'Changes of another window, which this one had overtaken, were found. They are a session of their own in the list now.'

function Workplace() {
  const send = useSend()
  const eyesClosed = useRoot((root) => root.interface.eyesClosed)
  useKeys()
  return (
    <div className="workplace" data-eyes={eyesClosed ? 'closed' : 'open'}>
      <Header />
      <Outlet />
      <TransportBar />
      <KeepingNote />
      <LeaveGuard />
      {eyesClosed && (
        <div className="eyes-note" role="status">
          <span>Eyes closed: pictures are hidden, everything else goes on.</span>
          <button type="button" onClick={() => send(interfaceActions.eyesSwitched())}>
            Open (E)
          </button>
        </div>
      )}
    </div>
  )
}
