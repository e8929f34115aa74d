import { ThemeProvider } from '@mui/material/styles'
import { useLayoutEffect, useMemo, useState } from 'react'
import { createBrowserRouter, Navigate, RouterProvider } from 'react-router'
import { DeliverPage } from './deliver/deliver-page'
import { GatherPage } from './gather/gather-page'
import { layOut } from './plot/sheet'
import { SessionsPage } from './sessions/sessions-page'
import { Notices } from './shell/notices'
import { SessionLayout } from './shell/session-layout'
import { StorageNote } from './shell/storage-note'
import { makeTheme } from './shell/theme'
import { useRoot } from './store/store'
import { SurveyPage } from './survey/survey-page'

/** Counts up when the list of sessions changed behind the page's back. */
let noteChange = () => {}

function Sessions() {
  const [changes, setChanges] = useState(0)
  noteChange = () => setChanges(changes + 1)
  return <SessionsPage key={changes} />
}

const router = createBrowserRouter([
  { path: '/', Component: Sessions },
  {
    path: '/session/:id',
    Component: SessionLayout,
    children: [
      { index: true, element: <Navigate to="survey" replace /> },
      { path: 'gather', Component: GatherPage },
      { path: 'survey', Component: SurveyPage },
      { path: 'deliver', Component: DeliverPage },
    ],
  },
  { path: '*', element: <Navigate to="/" replace /> },
])

export function App() {
  const sheet = useRoot((root) => root.interface.sheet)
  const theme = useMemo(() => makeTheme(sheet), [sheet])
  useLayoutEffect(() => layOut(sheet), [sheet])
  return (
    <ThemeProvider theme={theme}>
      <RouterProvider router={router} />
      <StorageNote />
      <Notices onSessionsChanged={() => noteChange()} />
    </ThemeProvider>
  )
}
