// @vitest-environment happy-dom
import * as engine from '@sober-prism/engine'
import { EngineError, UnreadableError } from '@sober-prism/engine'
import { act, screen, waitFor } from '@testing-library/react'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import * as downloads from '../jobs/download'
import { interfaceActions } from '../store/interface-slice'
import { sessionActions } from '../store/session-slice'
import { store } from '../store/store'
import { sessionOf, show } from '../testing/render'
import { KeepingNote } from './keeping-note'
import { Notices } from './notices'
import { PageNote } from './page-note'
import { StorageNote } from './storage-note'
import { UnreadableSession } from './unreadable-session'
import { WorkNote } from './work-note'

vi.mock('@sober-prism/engine', async (original) => ({
  ...(await original<typeof engine>()),
  takeOverSession: vi.fn(async () => {}),
  exportRaw: vi.fn(async () => '{"as":"stored"}'),
  restoreLastGood: vi.fn(async () => {}),
  restoreSession: vi.fn(async () => {}),
}))
vi.mock('../jobs/download', () => ({ download: vi.fn() }))
const notice = () => store.getState().interface.notice
beforeEach(() => {
  vi.clearAllMocks()
  store.dispatch(interfaceActions.noticeClosed())
})

describe('what is not stored', () => {
  const refused = (conflict: boolean) => {
    const made = show(<KeepingNote />, sessionOf(['Voice']))
    const state = { kind: 'refused', sentence: 'The disk is full.', conflict } as never
    act(() => made.keeper.state.set(state))
    return made
  }

  it('is nothing to tell while all is', () => {
    show(<KeepingNote />, sessionOf(['Voice']))
    expect(screen.queryByRole('alert')).toBeNull()
  })

  it('is told until it is, tried again, or saved as a file', async () => {
    const { user, keeper, open } = refused(false)
    screen.getByText('The disk is full.')
    await user.click(screen.getByRole('button', { name: 'Try again' }))
    expect(keeper.save).toHaveBeenCalledTimes(1)
    const save = vi.spyOn(open.deliver, 'save').mockResolvedValue()
    await user.click(screen.getByRole('button', { name: 'Save as a file' }))
    expect(save).toHaveBeenCalledWith(expect.objectContaining({ name: 'A piece' }), false)
    act(() => keeper.state.set({ kind: 'kept' }))
    expect(screen.queryByRole('alert')).toBeNull()
  })

  it('may stand against what another window stored: one of the two is kept', async () => {
    const { user, keeper } = refused(true)
    screen.getByRole('button', { name: 'Open what is stored' })
    await user.click(screen.getByRole('button', { name: 'Keep what is here' }))
    expect(engine.takeOverSession).toHaveBeenCalledWith('s')
    expect(keeper.save).toHaveBeenCalledTimes(1)
    vi.mocked(engine.takeOverSession).mockRejectedValueOnce(new EngineError('It cannot be had.'))
    await user.click(screen.getByRole('button', { name: 'Keep what is here' }))
    await waitFor(() => expect(notice()?.text).toBe('It cannot be had.'))
  })

  it('is for the whole browser told above every page', () => {
    show(<StorageNote />, sessionOf(['Voice']))
    expect(screen.queryByRole('alert')).toBeNull()
    act(() => engine.storageTrouble.set('Storage is switched off in this window.'))
    expect(screen.getByRole('alert').textContent).toContain('Storage is switched off')
    act(() => engine.storageTrouble.set(null))
  })
})

describe('a session that cannot be read', () => {
  const shown = (lastGoodAt: number | null) => {
    const onRestored = vi.fn()
    const error = new UnreadableError('s', 'What is stored cannot be read.', lastGoodAt)
    const made = show(
      <UnreadableSession error={error} onRestored={onRestored} />,
      sessionOf(['Voice']),
    )
    return { ...made, onRestored }
  }

  it('is opened as it last could be, or saved as it is', async () => {
    const { user, onRestored } = shown(Date.UTC(2026, 2, 4))
    expect(screen.getByRole('alert').textContent).toContain('cannot be read')
    await user.click(screen.getByRole('button', { name: 'Export the stored data' }))
    expect(downloads.download).toHaveBeenCalledWith('unreadable-session.json', expect.any(Blob))
    await user.click(screen.getByRole('button', { name: /^Open the last readable state/ }))
    expect(onRestored).toHaveBeenCalledTimes(1)
    vi.mocked(engine.restoreLastGood).mockRejectedValueOnce(new EngineError('It is gone.'))
    await user.click(screen.getByRole('button', { name: /^Open the last readable state/ }))
    await waitFor(() => expect(notice()?.text).toBe('It is gone.'))
    expect(onRestored).toHaveBeenCalledTimes(1)
  })

  it('offers no earlier state where there is none', () => {
    shown(null)
    expect(screen.queryByRole('button', { name: /^Open the last readable state/ })).toBeNull()
  })
})

describe('a page with one thing to say', () => {
  it('has no way back while it is only busy', () => {
    show(<PageNote busy text="Opening…" />, sessionOf([]))
    screen.getByRole('status')
    expect(screen.queryByRole('link')).toBeNull()
  })
})

describe('short messages', () => {
  const shown = () => {
    const onChanged = vi.fn()
    return { ...show(<Notices onSessionsChanged={onChanged} />, sessionOf(['Voice'])), onChanged }
  }

  it('take back what was done', async () => {
    const { user, session } = shown()
    const rename = { kind: 'set-node', node: 't0', change: { name: 'Singer' } } as const
    act(() => {
      store.dispatch(sessionActions.edited([rename]))
      store.dispatch(interfaceActions.noticeShown('Renamed.', 'info', 'edit'))
    })
    await user.click(screen.getByRole('button', { name: 'Undo' }))
    expect(session().tracks[0].name).toBe('Voice')
    expect(screen.queryByText('Renamed.')).toBeNull()
  })

  it('bring a deleted session back', async () => {
    const { user, onChanged } = shown()
    const undo = { deletedSession: 'gone' }
    act(() => void store.dispatch(interfaceActions.noticeShown('Deleted.', 'info', undo)))
    await user.click(screen.getByRole('button', { name: 'Undo' }))
    expect(engine.restoreSession).toHaveBeenCalledWith('gone')
    expect(onChanged).toHaveBeenCalledTimes(1)
  })

  it('are alerts where they warn, and are closed', async () => {
    const { user } = shown()
    act(() => void store.dispatch(interfaceActions.noticeShown('Too long.', 'warning')))
    expect(screen.getByRole('alert').textContent).toContain('Too long.')
    expect(screen.queryByRole('button', { name: 'Undo' })).toBeNull()
    await user.click(screen.getByRole('button', { name: 'Close' }))
    expect(notice()).toBeNull()
  })
})

describe('long work', () => {
  it('is seen from every step, and stopped there', async () => {
    const { user, open } = show(<WorkNote />, sessionOf(['Voice']))
    const file = (key: string, kind: string) => ({ key, name: key, state: { kind } }) as never
    act(() => open.imports.files.set([file('a', 'done'), file('b', 'waiting')]))
    screen.getByRole('progressbar', { name: '1 of 2 files to import' })
    const cancel = vi.spyOn(open.imports, 'cancel')
    await user.click(screen.getByRole('button', { name: /^Cancel: 1 of 2/ }))
    expect(cancel).toHaveBeenCalledTimes(1)
    act(() => open.deliver.work.set({ what: 'Rendering the mix', share: 0.25 }))
    const bar = screen.getByRole('progressbar', { name: 'Rendering the mix' })
    expect(bar.getAttribute('aria-valuenow')).toBe('25')
  })
})
