import { Desk, errorSentence, journalSession, loadSession, saveSession } from '@sober-prism/engine'
import { useEffect, useState } from 'react'
import { Link, Outlet, useParams } from 'react-router'
import { interfaceActions } from '../store/interface-slice'
import { MIX, sessionActions } from '../store/session-slice'
import { store, useRoot, useSend } from '../store/store'
import { TransportBar } from '../transport/transport-bar'
import { DeskContext } from './desk-context'
import { Header } from './header'
import { useKeys } from './keys'

const SAVE_MS = 300

type Opening =
  | { kind: 'loading' }
  | { kind: 'failed'; sentence: string }
  | { kind: 'open'; desk: Desk }

/** Opens the session of the route, keeps it stored, and gives the pages below its desk. */
export function SessionLayout() {
  const { id = '' } = useParams()
  const [opening, setOpening] = useState<Opening>({ kind: 'loading' })
  const present = useRoot((root) => root.session.present)

  useEffect(() => {
    let desk: Desk | null = null
    let unwatch = () => {}
    let closed = false
    const open = async () => {
      try {
        const session = await loadSession(id)
        if (closed) return
        if (!session) {
          setOpening({ kind: 'failed', sentence: 'This session is not in this browser.' })
          return
        }
        store.dispatch(sessionActions.opened(session))
        store.dispatch(interfaceActions.ownerChosen(session.tracks[0]?.id ?? MIX))
        desk = new Desk(session.sampleRateHz)
        unwatch = keepInStep(desk)
        Object.assign(window, { soberPrism: { desk } })
        setOpening({ kind: 'open', desk })
      } catch (error) {
        if (!closed) setOpening({ kind: 'failed', sentence: errorSentence(error) })
      }
    }
    void open()
    return () => {
      closed = true
      unwatch()
      void desk?.close()
      store.dispatch(sessionActions.opened(null))
      setOpening({ kind: 'loading' })
    }
  }, [id])

  if (opening.kind === 'failed') {
    return (
      <main className="page-note">
        <p>{opening.sentence}</p>
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

function Workplace() {
  const send = useSend()
  const eyesClosed = useRoot((root) => root.interface.eyesClosed)
  useKeys()
  return (
    <div className="workplace" data-eyes={eyesClosed ? 'closed' : 'open'}>
      <Header />
      <Outlet />
      <TransportBar />
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

/** Sound, measurements and storage follow the document. */
function keepInStep(desk: Desk): () => void {
  let shown = store.getState().session.present
  let saved = shown
  let timer: ReturnType<typeof setTimeout> | undefined
  let told = ''
  const save = async () => {
    const session = shown
    if (!session || session === saved) return
    try {
      await saveSession(session)
      saved = session
      told = ''
    } catch (error) {
      const sentence = errorSentence(error)
      if (sentence !== told) store.dispatch(interfaceActions.noticeShown(sentence, 'warning'))
      told = sentence
    }
  }
  const flush = () => {
    if (shown && shown !== saved) journalSession(shown)
  }
  const whenHidden = () => {
    if (document.visibilityState === 'hidden') flush()
  }
  if (shown) desk.update(shown)
  const unsubscribe = store.subscribe(() => {
    const state = store.getState()
    desk.player.setMono(state.interface.mono)
    desk.analyser.setMono(state.interface.mono)
    const { present } = state.session
    if (!present || present === shown) return
    shown = present
    desk.update(present)
    clearTimeout(timer)
    timer = setTimeout(() => void save(), SAVE_MS)
  })
  window.addEventListener('pagehide', flush)
  document.addEventListener('visibilitychange', whenHidden)
  return () => {
    unsubscribe()
    clearTimeout(timer)
    void save()
    window.removeEventListener('pagehide', flush)
    document.removeEventListener('visibilitychange', whenHidden)
  }
}
