import { ThemeProvider } from '@mui/material/styles'
import { errorSentence, lacking, listSessions, storageTrouble } from '@sober-prism/engine'
import { lazy, Suspense, useLayoutEffect, useMemo, useSyncExternalStore } from 'react'
import { createBrowserRouter, Navigate, RouterProvider } from 'react-router'
import { layOut } from './plot/inks'
import type { SessionsData } from './sessions/sessions-page'
import { PageNote } from './shell/page-note'
import { RouteError } from './shell/route-error'
import { makeTheme } from './shell/theme'
import { useAppSelector } from './store/store'

/** Where they cannot be listed, that is told, and the ways to a new one stay. */
async function loadSessions(): Promise<SessionsData> {
  const missing = lacking(globalThis)
  try {
    return { sessions: await listSessions(), problem: null, lacking: missing }
  } catch (error) {
    return { sessions: [], problem: errorSentence(error), lacking: missing }
  }
}

const router = createBrowserRouter([
  {
    ErrorBoundary: RouteError,
    HydrateFallback: () => <PageNote busy text="Opening…" />,
    children: [
      {
        path: '/',
        loader: loadSessions,
        lazy: () => import('./sessions/sessions-page'),
      },
      {
        path: '/session/:id',
        lazy: () => import('./shell/session-layout'),
        ErrorBoundary: RouteError,
        children: [
          { index: true, element: <Navigate to="survey" replace /> },
          {
            ErrorBoundary: RouteError,
            children: [
              { path: 'gather', lazy: () => import('./gather/gather-page') },
              { path: 'survey', lazy: () => import('./survey/survey-page') },
              { path: 'clean', lazy: () => import('./clean/clean-page') },
              { path: 'fit', lazy: () => import('./fit/fit-page') },
              { path: 'shape', lazy: () => import('./shape/shape-page') },
              { path: 'check', lazy: () => import('./check/check-page') },
              { path: 'deliver', lazy: () => import('./deliver/deliver-page') },
            ],
          },
        ],
      },
      { path: '*', element: <Navigate to="/" replace /> },
    ],
  },
])

const Notes = lazy(() => import('./shell/notes'))

/** Whether there is anything to be told over the page. */
function useHasNotes(): boolean {
  const notice = useAppSelector((root) => root.interface.notice)
  const trouble = useSyncExternalStore(storageTrouble.watch, storageTrouble.read)
  return notice !== null || trouble !== null
}

export function App() {
  const sheet = useAppSelector((root) => root.interface.sheet)
  const hasNotes = useHasNotes()
  const theme = useMemo(() => makeTheme(sheet), [sheet])
  useLayoutEffect(() => layOut(sheet), [sheet])
  return (
    <ThemeProvider theme={theme}>
      <RouterProvider router={router} />
      {hasNotes && (
        <Suspense>
          <Notes onSessionsChanged={() => void router.revalidate()} />
        </Suspense>
      )}
    </ThemeProvider>
  )
}
