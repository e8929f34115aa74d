import {
  askToKeepData,
  type DemoChoice,
  deleteSession,
  errorSentence,
  holdAudio,
  isCancel,
  listSessions,
  openDemo,
  openSessionFile,
  type SessionEntry,
  saveSession,
} from '@sober-prism/engine'
import { useCallback, useEffect, useRef, useState } from 'react'
import { useDropzone } from 'react-dropzone'
import { Link, useNavigate } from 'react-router'
import { interfaceActions } from '../store/interface-slice'
import { newSession } from '../store/session-slice'
import { useSend } from '../store/store'
import { DataNote } from './data-note'

interface Busy {
  readonly what: string
  readonly share: number
  cancel(): void
}

/** All sessions of this browser, and the ways to a new one. */
export function SessionsPage() {
  const [sessions, setSessions] = useState<readonly SessionEntry[] | null>(null)
  const [busy, setBusy] = useState<Busy | null>(null)
  const send = useSend()
  const navigate = useNavigate()
  const running = useRef<AbortController | null>(null)

  const tell = useCallback(
    (error: unknown) => {
      if (!isCancel(error)) send(interfaceActions.noticeShown(errorSentence(error), 'warning'))
    },
    [send],
  )
  const refresh = useCallback(() => {
    listSessions().then(setSessions, (error) => {
      setSessions([])
      tell(error)
    })
  }, [tell])
  useEffect(refresh, [refresh])
  useEffect(() => () => running.current?.abort(), [])

  /** Runs something long that ends in a session to go to. */
  const goTo = async (
    what: string,
    step: string,
    work: (signal: AbortSignal, show: (share: number) => void) => Promise<{ id: string }>,
  ) => {
    void askToKeepData()
    const letGo = holdAudio()
    const controller = new AbortController()
    running.current = controller
    const cancel = () => controller.abort(new DOMException('Cancelled.', 'AbortError'))
    setBusy({ what, share: 0, cancel })
    try {
      const { id } = await work(controller.signal, (share) => setBusy({ what, share, cancel }))
      if (!controller.signal.aborted) navigate(`/session/${id}/${step}`)
    } catch (error) {
      tell(error)
    } finally {
      letGo()
      setBusy(null)
    }
  }
  const demo = (choice: DemoChoice) =>
    goTo('Bringing in the demo', 'survey', (signal, show) => {
      const shares = new Map<string, number>()
      return openDemo(
        choice,
        (event) => {
          if (event.kind === 'waiting') shares.set(event.key, 0)
          if (event.kind === 'progress') shares.set(event.key, 0.2 + 0.6 * event.share)
          if (event.kind === 'done') shares.set(event.key, 1)
          show([...shares.values()].reduce((a, b) => a + b, 0) / Math.max(1, shares.size))
        },
        signal,
      )
    })
  const openFile = (files: readonly File[]) => {
    const [file] = files
    if (!file) return
    void goTo('Opening the session file', 'survey', (signal, show) =>
      openSessionFile(file, { signal, onProgress: (_, share) => show(share) }),
    )
  }
  const startNew = async () => {
    void askToKeepData()
    const session = newSession('Untitled session')
    try {
      await saveSession(session)
      navigate(`/session/${session.id}/gather`)
    } catch (error) {
      tell(error)
    }
  }
  const remove = async (entry: SessionEntry) => {
    try {
      await deleteSession(entry.id)
      refresh()
      send(
        interfaceActions.noticeShown(`“${entry.name}” deleted.`, 'info', {
          deletedSession: entry.id,
        }),
      )
    } catch (error) {
      tell(error)
    }
  }
  const { getRootProps, getInputProps, open, isDragActive } = useDropzone({
    onDrop: openFile,
    noClick: true,
    noKeyboard: true,
    multiple: false,
  })
  return (
    <main className="sessions" {...getRootProps()} data-drag={isDragActive}>
      <input {...getInputProps()} aria-label="Session file" />
      <header>
        <h1>Sober Prism</h1>
        <p>
          Find what stands in the way of each voice, make the smallest move that helps, and hear it
          fairly. Everything happens in this browser; nothing leaves this machine.
        </p>
      </header>
      <section aria-label="Start" className="start">
        <button type="button" className="primary" disabled={!!busy} onClick={() => void startNew()}>
          New session
        </button>
        <button type="button" disabled={!!busy} onClick={() => void demo('ensemble')}>
          Open the demo: Tern Island ferry night
        </button>
        <button type="button" disabled={!!busy} onClick={() => void demo('announcement')}>
          Open the demo: deck announcement, two takes
        </button>
        <button type="button" disabled={!!busy} onClick={open}>
          Open a session file …
        </button>
      </section>
      <div className="busy-row" aria-live="polite">
        {busy && (
          <>
            <span>{busy.what}</span>
            <progress value={busy.share} max={1} aria-label={busy.what} />
            <button type="button" onClick={busy.cancel}>
              Cancel
            </button>
          </>
        )}
      </div>
      <section aria-label="Recent sessions">
        <h2>Recent sessions</h2>
        {sessions?.length === 0 && (
          <p className="hint">None yet. The demo is a good place to look around.</p>
        )}
        <ul className="session-list">
          {sessions?.map((entry) => (
            <li key={entry.id}>
              <Link to={`/session/${entry.id}/survey`} className="clip" title={entry.name}>
                {entry.name}
              </Link>
              <span>
                {entry.tracks} {entry.tracks === 1 ? 'track' : 'tracks'}
              </span>
              <time dateTime={new Date(entry.updatedAt).toISOString()}>
                {new Date(entry.updatedAt).toLocaleString()}
              </time>
              <button
                type="button"
                className="plain"
                aria-label={`Delete ${entry.name}`}
                onClick={() => void remove(entry)}
              >
                Delete
              </button>
            </li>
          ))}
        </ul>
      </section>
      <footer>
        <DataNote />
        <a href="/licences.txt" target="_blank" rel="noreferrer">
          Licences of what is built in
        </a>
      </footer>
    </main>
  )
}
