import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Link from '@mui/material/Link'
import Typography from '@mui/material/Typography'
import { askToKeepData, deleteSession, type SessionEntry, saveSession } from '@sober-prism/engine'
import { lazy, Suspense, useEffect } from 'react'
import { useDropzone } from 'react-dropzone'
import { useLoaderData, useNavigate, useRevalidator } from 'react-router'
import { EmptyPlace } from '../controls/empty-place'
import { Column, Row } from '../controls/layout'
import { Running } from '../controls/running'
import { interfaceActions } from '../store/interface-slice'
import { newSession } from '../store/session-slice'
import { useAppDispatch, useAppSelector } from '../store/store'
import { DataNote } from './data-note'
import { useSessionWork } from './session-work'

const SessionTable = lazy(() => import('./session-table'))

/** What the route's loader found. */
export interface SessionsData {
  readonly sessions: readonly SessionEntry[]
  /** Why they could not be listed. */
  readonly problem: string | null
  /** What this browser lacks of what the app cannot do without, and what to do. */
  readonly lacking?: string | null
}

/** All sessions of this browser, and the ways to a new one. */
export function Component() {
  const { sessions, problem, lacking = null } = useLoaderData<SessionsData>()
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
  const busy = work !== null || lacking !== null
  return (
    <Column
      as="main"
      {...getRootProps()}
      data-drag={isDragActive}
      sx={{
        gap: '18px',
        alignContent: 'start',
        maxWidth: 860,
        minHeight: '100%',
        mx: 'auto',
        p: '48px 24px',
      }}
    >
      <input {...getInputProps()} aria-label="Session file" />
      <Row
        as="header"
        sx={{ alignItems: 'start', justifyContent: 'space-between', flexWrap: 'nowrap' }}
      >
        <div>
          <Typography variant="h1">Sober Prism</Typography>
          <Typography color="textSecondary" sx={{ maxWidth: '60ch', fontSize: 16 }}>
            Find what masks each part, make the smallest move that helps, and compare fairly.
            Everything stays on this computer.
          </Typography>
        </div>
        <Button
          variant="text"
          aria-pressed={sheet === 'night'}
          title="For dark rooms"
          onClick={() => dispatch(interfaceActions.sheetTurned())}
        >
          {sheet === 'night' ? 'Light theme' : 'Dark theme'}
        </Button>
      </Row>
      {lacking && (
        <Typography role="alert" color="warning">
          {lacking}
        </Typography>
      )}
      <Row aria-label="Start" as="section" sx={{ '& > button': { minHeight: 34 } }}>
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
          Open session file…
        </Button>
      </Row>
      <Box sx={{ minHeight: 30, maxWidth: 420 }} aria-live="polite">
        {work && <Running what={work.what} share={work.share} onCancel={work.cancel} />}
      </Box>
      <Column aria-label="Recent sessions" as="section" sx={{ gap: '8px' }}>
        <Row sx={{ alignItems: 'start', justifyContent: 'space-between', flexWrap: 'nowrap' }}>
          <Typography variant="h2">Recent sessions</Typography>
          {sessions.length > 1 && (
            <Button disabled={busy} onClick={() => void save(sessions)}>
              Export all…
            </Button>
          )}
        </Row>
        {sessions.length === 0 ? (
          <EmptyPlace text="None yet. Start a new session to import your tracks, or open the demo: nine tracks of an invented ensemble, with problems to find." />
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
      </Column>
      <Column as="footer" sx={{ gap: '8px' }}>
        <DataNote />
        <Link href="/licences.txt" target="_blank" rel="noreferrer">
          Licences of what is built in
        </Link>
      </Column>
    </Column>
  )
}
