// @vitest-environment happy-dom
import type { Analysis, RenderedFile } from '@sober-prism/engine'
import { act, screen, within } from '@testing-library/react'
import { describe, expect, it } from 'vitest'
import { store } from '../store/store'
import { sessionOf, show } from '../testing/render'
import { Component as DeliverPage } from './deliver-page'
import { deliverActions } from './deliver-slice'

const render = () => screen.getByRole<HTMLButtonElement>('button', { name: 'Render' })
const peak = (truePeakDbtp: number) =>
  ({
    fresh: true,
    mix: { lufs: -14.2, truePeakDbtp, levels: new Float64Array() },
  }) as Partial<Analysis>

describe('delivering', () => {
  it('is not offered without tracks, nor while nothing is wanted', async () => {
    const { unmount } = show(<DeliverPage />, sessionOf([]))
    expect(render().disabled).toBe(true)
    unmount()
    const { user } = show(<DeliverPage />, sessionOf(['A']))
    expect(render().disabled).toBe(false)
    await user.click(screen.getByRole('checkbox', { name: 'The mix' }))
    expect(render().disabled).toBe(true)
    store.dispatch(deliverActions.chosen({ mix: true }))
  })

  it('keeps what was chosen when one comes back', async () => {
    const first = show(<DeliverPage />, sessionOf(['A']))
    await first.user.click(screen.getByRole('radio', { name: 'WAV, 32 bit float' }))
    first.unmount()
    show(<DeliverPage />, sessionOf(['A']))
    expect(screen.getByRole<HTMLInputElement>('radio', { name: /32 bit/ }).checked).toBe(true)
    act(() => void store.dispatch(deliverActions.chosen({ bits: 24 })))
  })

  it('offers stems only where there are groups', () => {
    const { unmount } = show(<DeliverPage />, sessionOf(['A']))
    expect(screen.queryByRole('checkbox', { name: /Each group/ })).toBeNull()
    unmount()
    const members = ['t0']
    show(<DeliverPage />, sessionOf(['A'], { kind: 'add-group', id: 'g', name: 'G', members }))
    screen.getByRole('checkbox', { name: 'Each group as a stem (1)' })
  })

  it('warns of a mix that would be clipped, and of files that are', () => {
    const { open } = show(<DeliverPage />, sessionOf(['A']), peak(1.2))
    screen.getByText(/True peak above 0 dBTP: may clip/)
    const file = { name: 'Mix.wav', blob: new Blob(), lufs: -9.1, truePeakDbtp: 0.6 }
    act(() => open.deliver.files.set([file as RenderedFile]))
    const table = within(screen.getByRole('table', { name: 'Rendered files' }))
    table.getByText('−9.1')
    screen.getByText(/samples above full scale are clipped at 24 bit/)
  })

  it('brings the mix to a loudness under a peak, as a part of the session', async () => {
    const { user, session, open } = show(<DeliverPage />, sessionOf(['A']))
    await user.selectOptions(screen.getByLabelText('Normalise'), 'To loudness')
    const lufs = screen.getByRole('textbox', { name: /Loudness/ })
    await user.clear(lufs)
    await user.type(lufs, '-23{Enter}')
    expect(session().normalise).toEqual({ to: 'loudness', lufs: -23, dbtp: -1 })
    const normalised = { gainDb: -3.5, heldByPeak: true }
    const file = { name: 'Mix.wav', blob: new Blob(), lufs: -24, truePeakDbtp: -1, normalised }
    act(() => open.deliver.files.set([file]))
    screen.getByText(/−3\.5 dB applied; the peak limit kept it below target/)
    await user.selectOptions(screen.getByLabelText('Normalise'), 'No normalising')
    expect(session().normalise).toBeNull()
  })

  it('tells what is left out of the mix', () => {
    const mute = { kind: 'set-node', node: 't1', change: { mute: true } } as const
    show(<DeliverPage />, sessionOf(['A', 'B'], mute), peak(-3))
    const figures = screen.getByText('Muted').parentElement
    expect(figures?.textContent).toBe('MutedB')
    const whole = screen.getByText('Loudness over the passage').parentElement
    expect(whole?.textContent).toContain('−14.2 LUFS')
  })
})
