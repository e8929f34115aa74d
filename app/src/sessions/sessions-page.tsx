import Button from '@mui/material/Button'
import Link from '@mui/material/Link'
import Typography from '@mui/material/Typography'
import { askToKeepData, deleteSession, type SessionEntry, saveSession } from '@sober-prism/engine'
import { lazy, Suspense, useEffect } from 'react'
import { useDropzone } from 'react-dropzone'
import { useLoaderData, useNavigate, useRevalidator } from 'react-router'
import { EmptyPlace } from '../controls/empty-place'
import { Running } from '../controls/running'
import { interfaceActions } from '../store/interface-slice'
import { newSession } from '../store/session-slice'
import { useAppDispatch, useAppSelector } from '../store/store'
import { DataNote } from './data-note'
import { useSessionWork } from './session-work'
import styles from './sessions.module.css'

const SessionTable = lazy(() => import('./session-table'))

/** What the route's loader found. */
export interface SessionsData {
  readonly sessions: readonly SessionEntry[]
  /** Why they could not be listed. */
  readonly problem: string | null
}

/** All sessions of this browser, and the ways to a new one. */
export function Component() {
  const { sessions, problem } = useLoaderData<SessionsData>()
  const { work, tell, openDemo, openFile, save } = useSessionWork()
  const dispatch = useAppDispatch()
  const navigate = useNavigate()
  const { revalidate } = useRevalidator()
  const sheet = useAppSelector((root) => root.interface.sheet)

  useEffect(() => {
    if (problem) dispatch(interfaceActions.noticeShown(problem, 'warning'))
  }, [problem, dispatch])

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
      void revalidate()
      const undo = { deletedSession: entry.id }
      dispatch(interfaceActions.noticeShown(`“${entry.name}” deleted.`, 'info', undo))
    } catch (error) {
      tell(error)
    }
  }
  const { getRootProps, getInputProps, open, isDragActive } = useDropzone({
    onDrop: ([file]) => void (file && openFile(file)),
    noClick: true,
    noKeyboard: true,
    multiple: false,
  })
  const busy = work !== null
  return (
    <main {...getRootProps({ className: styles.sessions })} data-drag={isDragActive}>
      <input {...getInputProps()} aria-label="Session file" />
      <header className={styles.head}>
        <div>
          <Typography variant="h1">Sober Prism</Typography>
          <Typography color="text.secondary" sx={{ maxWidth: '60ch', fontSize: 16 }}>
            Find what stands in the way of each voice, make the smallest move that helps, and hear
            it fairly. Everything happens in this browser; nothing leaves this machine.
          </Typography>
        </div>
        <Button
          variant="text"
          aria-pressed={sheet === 'night'}
          title="For dark rooms"
          onClick={() => dispatch(interfaceActions.sheetTurned())}
        >
          {sheet === 'night' ? 'Light sheet' : 'Night sheet'}
        </Button>
      </header>
      <section aria-label="Start" className={styles.row}>
        <Button variant="contained" disabled={busy} onClick={() => void startNew()}>
          New session
        </Button>
        <Button disabled={busy} onClick={() => void openDemo('ensemble')}>
          Open the demo: Tern Island ferry night
        </Button>
        <Button disabled={busy} onClick={() => void openDemo('announcement')}>
          Open the demo: deck announcement, two takes
        </Button>
        <Button disabled={busy} onClick={open}>
          Open a session file …
        </Button>
      </section>
      <div className={styles.busy} aria-live="polite">
        {work && <Running what={work.what} share={work.share} onCancel={work.cancel} />}
      </div>
      <section aria-label="Recent sessions" className={styles.list}>
        <div className={styles.head}>
          <Typography variant="h2">Recent sessions</Typography>
          {sessions.length > 1 && (
            <Button disabled={busy} onClick={() => void save(sessions)}>
              Export all …
            </Button>
          )}
        </div>
        {sessions.length === 0 ? (
          <EmptyPlace text="None yet. A new session takes the tracks of your piece. To look around first, open the demo: nine tracks of an invented ensemble, with faults to find." />
        ) : (
          <Suspense>
            <SessionTable
              sessions={sessions}
              busy={busy}
              onSave={(entry) => void save([entry])}
              onDelete={(entry) => void remove(entry)}
            />
          </Suspense>
        )}
      </section>
      <footer className={styles.list}>
        <DataNote />
        <Link href="/licences.txt" target="_blank" rel="noreferrer">
          Licences of what is built in
        </Link>
      </footer>
    </main>
  )
}
