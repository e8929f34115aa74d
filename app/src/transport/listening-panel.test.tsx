// @vitest-environment happy-dom
import { act, screen, within } from '@testing-library/react'
import { describe, expect, it } from 'vitest'
import { interfaceActions } from '../store/interface-slice'
import { store } from '../store/store'
import { sessionOf, show } from '../testing/render'
import { listeningWords } from './listening'
import { ListeningPanel } from './listening-panel'

const plain = { listening: { position: 'stereo', dim: false }, eyesClosed: false } as const

describe('what is for listening only', () => {
  it('is nothing when one hears what would be rendered', () => {
    expect(listeningWords(sessionOf(['A']), plain, null, null)).toEqual([])
  })

  it('is told in words, all of it', () => {
    const session = sessionOf(
      ['A', 'B'],
      { kind: 'set-node', node: 't0', change: { solo: true } },
      { kind: 'set-node', node: 't1', change: { lift: true } },
    )
    const view = { listening: { position: 'sides', dim: true }, eyesClosed: true } as const
    const heard = { rendition: { kind: 'without', target: { of: 'all' } }, gainDb: -1.25 } as const
    const words = listeningWords(session, view, heard, null)
    expect(words).toEqual([
      'everything bypassed, −1.3 LU to match',
      'solo A',
      'lift B',
      'side signal only',
      'dim',
      'eyes closed',
    ])
  })

  it('is all switched off at once', async () => {
    const solo = { kind: 'set-node', node: 't0', change: { solo: true } } as const
    const { user, session, desk } = show(
      <ListeningPanel disabled={false} />,
      sessionOf(['A'], solo),
    )
    await user.click(screen.getByRole('button', { name: 'Mono' }))
    await user.click(screen.getByRole('button', { name: 'Dim' }))
    act(() => void store.dispatch(interfaceActions.eyesSwitched()))
    expect(screen.getByRole('status').textContent).toBe(
      'Listening only: solo A, mono, dim, eyes closed',
    )
    await user.click(screen.getByRole('button', { name: 'Turn all off' }))
    expect(screen.getByRole('status').textContent).toBe('As rendered')
    expect(session().tracks[0].solo).toBe(false)
    expect(desk.stopHearing).toHaveBeenCalled()
  })

  it('goes from mono to the sides, and back to both by pressing again', async () => {
    const { user } = show(<ListeningPanel disabled={false} />, sessionOf(['A']))
    const position = () => store.getState().interface.listening.position
    await user.click(screen.getByRole('button', { name: 'Mono' }))
    const choose = async (name: RegExp) => {
      await user.click(screen.getByRole('button', { name: 'Channels' }))
      await user.click(await screen.findByRole('menuitemcheckbox', { name }))
    }
    await choose(/side signal only/)
    expect(position()).toBe('sides')
    expect(screen.getByRole('status').textContent).toBe('Listening only: side signal only')
    await choose(/side signal only/)
    expect(position()).toBe('stereo')
    await choose(/left and right exchanged/)
    expect(position()).toBe('exchanged')
  })

  it('begins a fair compare, and is not offered without sound', async () => {
    const { user, desk, unmount } = show(<ListeningPanel disabled={false} />, sessionOf(['A']))
    await user.click(screen.getByRole('button', { name: 'Fair compare' }))
    expect(desk.hear).toHaveBeenCalledWith({ kind: 'without', target: { of: 'all' } })
    unmount()
    show(<ListeningPanel disabled />, sessionOf([]))
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Fair compare' }).disabled).toBe(
      true,
    )
  })

  it('hears the chosen chain without what is chosen, and then only what that changes', async () => {
    const { user, desk } = show(<ListeningPanel disabled={false} />, sessionOf(['Voice']))
    act(() => void store.dispatch(interfaceActions.nodeChosen('t0')))
    act(() => void store.dispatch(interfaceActions.stageChosen('fit')))
    await user.click(screen.getByRole('button', { name: 'Bypass' }))
    const dialog = within(screen.getByRole('dialog', { name: 'Listen without, or to a part' }))
    dialog.getByText('On Voice, at equal loudness')
    const difference = dialog.getByRole<HTMLButtonElement>('button', { name: 'Difference only' })
    expect(difference.disabled).toBe(true)
    await user.click(dialog.getByRole('button', { name: 'Stage' }))
    const target = { of: 'stage', node: 't0', stage: 'fit' } as const
    expect(desk.hear).toHaveBeenLastCalledWith({ kind: 'without', target })
    act(() => desk.heard.set({ rendition: { kind: 'without', target }, gainDb: 0 } as never))
    await user.click(difference)
    expect(desk.hear).toHaveBeenLastCalledWith({ kind: 'difference', target })
  })
})
