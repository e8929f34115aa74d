// @vitest-environment happy-dom
import { act, fireEvent, screen, within } from '@testing-library/react'
import { describe, expect, it } from 'vitest'
import { interfaceActions } from '../store/interface-slice'
import { sessionActions } from '../store/session-slice'
import { store } from '../store/store'
import { sessionOf, show } from '../testing/render'
import { TrackList } from './track-list'

const menuOf = async (name: string) => {
  fireEvent.contextMenu(screen.getByRole('button', { name }))
  return within(await screen.findByRole('menu', { name: 'Track' }))
}

describe('the menu of a track', () => {
  it('does what its row does, to that track alone where it is not selected', async () => {
    const { user, session } = show(<TrackList />, sessionOf(['Voice', 'Guitar', 'Bass']))
    await user.click((await menuOf('Guitar')).getByRole('menuitemcheckbox', { name: /^Mute/ }))
    expect(session().tracks.map((t) => t.mute)).toEqual([false, true, false])
    const again = (await menuOf('Guitar')).getByRole('menuitemcheckbox', { name: /Mute/ })
    expect(again.getAttribute('aria-checked')).toBe('true')
    await user.click(again)
    await user.click((await menuOf('Bass')).getByRole('menuitemcheckbox', { name: /^Lead/ }))
    expect(session().leadIds).toContain('t2')
  })

  it('has faders and buttons of all that are selected go together, each from where it is', async () => {
    const { user, session } = show(<TrackList />, sessionOf(['Voice', 'Guitar', 'Bass']))
    const change = { faderDb: -6 }
    act(() => {
      store.dispatch(sessionActions.edited([{ kind: 'set-node', node: 't2', change }]))
      store.dispatch(interfaceActions.nodesChosen(['t1', 't2']))
    })
    act(() => screen.getByRole('slider', { name: 'Fader of Guitar, dB' }).focus())
    await user.keyboard('{ArrowDown}{ArrowDown}')
    expect(session().tracks.map((t) => t.faderDb)).toEqual([0, -1, -7])
    await user.click(screen.getByRole('button', { name: 'mute Bass' }))
    expect(session().tracks.map((t) => t.mute)).toEqual([false, true, true])
    // What is not selected goes alone.
    await user.click(screen.getByRole('button', { name: 'mute Voice' }))
    expect(session().tracks.map((t) => t.mute)).toEqual([true, true, true])
  })

  it('does it to all that are selected, in one step of undo', async () => {
    const { user, session } = show(<TrackList />, sessionOf(['Voice', 'Guitar', 'Bass']))
    act(() => void store.dispatch(interfaceActions.nodesChosen(['t1', 't2'])))
    const past = store.getState().session.past.length
    const menu = await menuOf('Bass')
    await user.click(menu.getByRole('menuitemcheckbox', { name: /^Mute 2 tracks/ }))
    expect(session().tracks.map((t) => t.mute)).toEqual([false, true, true])
    expect(store.getState().session.past.length).toBe(past + 1)
    await user.click((await menuOf('Bass')).getByRole('menuitem', { name: 'Group 2 tracks' }))
    expect(session().groups.map((g) => g.name)).toEqual(['Group 1'])
  })

  it('gives all that are selected a role, from a list of its own that leads back', async () => {
    const { user, session } = show(<TrackList />, sessionOf(['Voice', 'Guitar', 'Bass']))
    act(() => void store.dispatch(interfaceActions.nodesChosen(['t1', 't2'])))
    await user.click((await menuOf('Bass')).getByRole('menuitem', { name: 'Role of 2 tracks' }))
    await user.click(screen.getByRole('menuitem', { name: 'Role of 2 tracks' }))
    expect(screen.getByRole('menuitemcheckbox', { name: /^Mute 2/ })).toBeTruthy()
    await user.click(screen.getByRole('menuitem', { name: 'Role of 2 tracks' }))
    await user.click(screen.getByRole('menuitemcheckbox', { name: 'winds' }))
    expect(session().tracks.map((t) => t.role)).toEqual(['voice', 'winds', 'winds'])
  })
})
