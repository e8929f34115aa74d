// @vitest-environment happy-dom
import 'fake-indexeddb/auto'
import { ThemeProvider } from '@mui/material/styles'
import type { SessionEntry } from '@sober-prism/engine'
import { render, screen, within } from '@testing-library/react'
import { Provider } from 'react-redux'
import { createMemoryRouter, RouterProvider } from 'react-router'
import { describe, expect, it } from 'vitest'
import { RouteError } from '../shell/route-error'
import { makeTheme } from '../shell/theme'
import { store } from '../store/store'
import '../testing/render'
import { type SessionsData, Component as SessionsPage } from './sessions-page'

const entry = (change: Partial<SessionEntry>): SessionEntry => ({
  id: 'a',
  name: 'Harbour waltz',
  tracks: 9,
  seconds: 65.7,
  bytes: 31e6,
  updatedAt: 1_700_000_000_000,
  openedAt: 1_700_000_900_000,
  ...change,
})

async function open(data: SessionsData | Error, path = '/') {
  const loader = () => {
    if (data instanceof Error) throw data
    return data
  }
  const routes = [{ path: '/', Component: SessionsPage, ErrorBoundary: RouteError, loader }]
  render(
    <Provider store={store}>
      <ThemeProvider theme={makeTheme('night')}>
        <RouterProvider router={createMemoryRouter(routes, { initialEntries: [path] })} />
      </ThemeProvider>
    </Provider>,
  )
}

describe('the page of sessions', () => {
  it('says what to do while there are none', async () => {
    await open({ sessions: [], problem: null })
    await screen.findByText(/None yet. Start a new session to import your tracks/)
    screen.getByRole('button', { name: 'New session' })
    screen.getByRole('button', { name: /Open the demo: Tern Island/ })
    expect(screen.queryByRole('button', { name: /Export all/ })).toBeNull()
  })

  it('says what the browser lacks, and begins nothing without it', async () => {
    const lacking = 'This browser lacks shared memory, without which nothing can be played.'
    await open({ sessions: [], problem: null, lacking })
    expect((await screen.findByRole('alert')).textContent).toBe(lacking)
    expect(screen.getByRole('button', { name: 'New session' })).toHaveProperty('disabled', true)
  })

  it('lists them with tracks, length, size and when they were opened', async () => {
    const long = 'A very long name of a session '.repeat(6)
    const sessions = [
      entry({}),
      entry({ id: 'b', name: long, seconds: null, bytes: 0, openedAt: null }),
    ]
    await open({ sessions, problem: null })
    const table = within(await screen.findByRole('table', { name: 'Sessions' }))
    const [first, second] = table.getAllByRole('row').slice(1)
    const cells = (row: HTMLElement) =>
      within(row)
        .getAllByRole('cell')
        .map((c) => c.textContent)
    expect(cells(first).slice(0, 4)).toEqual(['Harbour waltz', '9', '1:05.7', '31 MB'])
    expect(cells(first)[4]).toBe(new Date(1_700_000_900_000).toLocaleString())
    expect(cells(second).slice(2, 4)).toEqual(['–', '–'])
    const link = within(first).getByRole('link', { name: 'Harbour waltz' })
    expect(link.getAttribute('href')).toBe('/session/a/survey')
    screen.getByRole('button', { name: 'Export all…' })
    within(first).getByRole('button', { name: 'Export Harbour waltz' })
    within(first).getByRole('button', { name: 'Delete Harbour waltz' })
  })

  it('tells why they cannot be listed, and still offers a new one', async () => {
    await open({ sessions: [], problem: 'This browser refuses storage.' })
    await screen.findByRole('button', { name: 'New session' })
    await expect
      .poll(() => store.getState().interface.notice?.text)
      .toBe('This browser refuses storage.')
  })
})

describe('a page that cannot be shown', () => {
  it('says why and leads back', async () => {
    await open(new Error('nothing to read'))
    expect((await screen.findByRole('alert')).textContent).toMatch(/could not be shown.*is saved/)
    screen.getByRole('button', { name: 'Reload the page' })
    screen.getByRole('link', { name: 'All sessions' })
  })

  it('says so when a part of the app is missing, or the address leads nowhere', async () => {
    await open(new TypeError('Failed to fetch dynamically imported module'))
    await screen.findByText(/Part of the app could not be loaded/)
    await open({ sessions: [], problem: null }, '/nowhere')
    await screen.findByText('No page at this address.')
  })
})
