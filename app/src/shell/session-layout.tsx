import Button from '@mui/material/Button'
import { MIX } from '@sober-prism/core/treatments'
import {
  Desk,
  errorSentence,
  loadSession,
  SessionLock,
  saveSession,
  takeOverSession,
} from '@sober-prism/engine'
import { useEffect, useState } from 'react'
import { Link, Outlet, useParams } from 'react-router'
import { interfaceActions } from '../store/interface-slice'
import { openSession } from '../store/selectors'
import { sessionActions } from '../store/session-slice'
import { store, useRoot, useSend } from '../store/store'
import { TransportBar } from '../transport/transport-bar'
import { DeskContext } from './desk-context'
import { Header } from './header'
import { type Following, keepInStep } from './keep-in-step'
import { useKeys } from './keys'

type Opening =
  | { kind: 'loading' }
  | { kind: 'failed'; sentence: string }
  | { kind: 'elsewhere'; takeOver: () => void }
  | { kind: 'open'; desk: Desk }

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
  if (opening.kind === 'elsewhere') {
    return (
      <main className="page-note">
        <p role="status">
          This session is open in another window. Taking over stores what was done there, and goes
          on here.
        </p>
        <Button variant="contained" onClick={opening.takeOver}>
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
    <DeskContext.Provider value={opening.desk}>
      <Workplace />
    </DeskContext.Provider>
  )
}

/** Opens a session as soon as no other window works on it, and lets go when one takes over. */
function openHere(id: string, show: (opening: Opening) => void): () => void {
  const lock = new SessionLock(id)
  let desk: Desk | null = null
  let following: Following | null = null
  let closed = false
  const open = async () => {
    try {
      const session = await loadSession(id)
      if (closed || lock.holder.value !== 'here') return
      if (!session)
        return show({ kind: 'failed', sentence: 'This session is not in this browser.' })
      store.dispatch(sessionActions.opened(session))
      store.dispatch(interfaceActions.nodeChosen(session.tracks[0]?.id ?? MIX))
      store.dispatch(interfaceActions.conflictFound(false))
      desk = new Desk(session.sampleRateHz)
      following = keepInStep(desk)
      if (import.meta.env.MODE === 'test') Object.assign(window, { soberPrism: { desk } })
      show({ kind: 'open', desk })
    } catch (error) {
      if (!closed) show({ kind: 'failed', sentence: errorSentence(error) })
    }
  }
  const close = () => {
    following?.stop()
    following = null
    void desk?.close()
    desk = null
    store.dispatch(sessionActions.opened(null))
  }
  const follow = () => {
    if (lock.holder.value === 'here' && !desk) void open()
    if (lock.holder.value !== 'elsewhere') return
    close()
    show({ kind: 'elsewhere', takeOver: () => lock.takeOver() })
  }
  lock.onTakenOver = async () => following?.save()
  const unwatch = lock.holder.watch(follow)
  follow()
  return () => {
    closed = true
    unwatch()
    close()
    lock.close()
    show({ kind: 'loading' })
  }
}

function Workplace() {
  const send = useSend()
  const eyesClosed = useRoot((root) => root.interface.eyesClosed)
  const conflict = useRoot((root) => root.interface.conflict)
  useKeys()
  return (
    <div className="workplace" data-eyes={eyesClosed ? 'closed' : 'open'}>
      <Header />
      <Outlet />
      <TransportBar />
      {conflict && <Conflict />}
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

/** Another window stored something else meanwhile: nothing is overwritten until one has chosen. */
function Conflict() {
  const send = useSend()
  const keep = async () => {
    const session = openSession(store.getState())
    try {
      await takeOverSession(session.id)
      await saveSession(session)
      send(interfaceActions.conflictFound(false))
    } catch (error) {
      send(interfaceActions.noticeShown(errorSentence(error), 'warning'))
    }
  }
  return (
    <div className="eyes-note" role="alert">
      <span>Another window stored another state of this session.</span>
      <Button size="small" onClick={() => void keep()}>
        Keep what is here
      </Button>
      <Button size="small" onClick={() => window.location.reload()}>
        Open what is stored
      </Button>
    </div>
  )
}
