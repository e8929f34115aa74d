// @vitest-environment happy-dom

import type { Edit } from '@sober-prism/core/session'
import type { Analysis } from '@sober-prism/engine'
import { act, screen, within } from '@testing-library/react'
import { describe, expect, it } from 'vitest'
import type { Incoming } from '../jobs/import-jobs'
import { store } from '../store/store'
import { sessionOf, show } from '../testing/render'
import { Component as GatherPage } from './gather-page'

let answer: (lufs: number | null) => void = () => {}

const loud = (lufs: number) => ({ lufs, levels: new Float64Array(60) })

const measured = (...lufs: number[]) =>
  ({
    fresh: true,
    tracks: new Map(lufs.map((v, i) => [`t${i}`, loud(v)])),
  }) as unknown as Partial<Analysis>

describe('gathering', () => {
  it('says what goes where while nothing is here, and offers the ways to it', () => {
    show(<GatherPage />, sessionOf([]))
    screen.getByText(/Drop tracks here/)
    screen.getByText(/Drop finished recordings here/)
    screen.getByRole('button', { name: 'Choose files…' })
    screen.getByRole('button', { name: 'Add test signal…' })
    expect(screen.getByRole<HTMLSelectElement>('combobox', { name: 'Sample rate' }).disabled).toBe(
      false,
    )
  })

  it('tells how each file fares, with a sentence for each that cannot be read', async () => {
    const { open, user } = show(<GatherPage />, sessionOf([]))
    const files: Incoming[] = [
      { key: '1', name: 'Kick.wav', state: { kind: 'busy', stage: 'converting', share: 0.5 } },
      { key: '2', name: 'Notes.txt', state: { kind: 'failed', sentence: 'This is not audio.' } },
      { key: '3', name: 'Voice.wav', state: { kind: 'done', text: 'mono, 48000 Hz' } },
    ]
    act(() => open.imports.files.set(files))
    const list = within(screen.getByRole('region', { name: 'Importing files' }))
    list.getByText('This is not audio.')
    list.getByText('Importing: 1 done, 1 failed, 1 to go')
    const bar = list.getByRole('progressbar', { name: 'Kick.wav: converting sample rate' })
    expect(Number(bar.getAttribute('aria-valuenow'))).toBe(60)
    act(() => open.imports.files.set(files.slice(1)))
    await user.click(list.getByRole('button', { name: 'Clear list' }))
    expect(screen.queryByRole('region', { name: 'Importing files' })).toBeNull()
  })

  it('takes one line for files that all came in well, and shows them when asked', async () => {
    const { open, user } = show(<GatherPage />, sessionOf([]))
    const files = ['Kick', 'Voice'].map(
      (name): Incoming => ({
        key: name,
        name: `${name}.wav`,
        state: { kind: 'done', text: 'mono, 48000 Hz' },
      }),
    )
    act(() => open.imports.files.set(files))
    const list = within(screen.getByRole('region', { name: 'Importing files' }))
    list.getByText('2 files imported')
    expect(list.queryByRole('listitem')).toBeNull()
    await user.click(list.getByRole('button', { name: 'Show list' }))
    expect(list.getAllByRole('listitem')).toHaveLength(2)
  })

  it('names tracks and sets their roles and letters', async () => {
    const { user, session } = show(<GatherPage />, sessionOf(['Kick', 'Snare']))
    await user.clear(screen.getByRole('textbox', { name: 'Name of track A' }))
    await user.type(screen.getByRole('textbox', { name: 'Name of track A' }), 'Bass drum')
    await user.selectOptions(screen.getByRole('combobox', { name: 'Role of Snare' }), 'drums')
    expect(session().tracks.map((t) => [t.name, t.role])).toEqual([
      ['Bass drum', 'voice'],
      ['Snare', 'drums'],
    ])
    expect(screen.getByRole<HTMLSelectElement>('combobox', { name: 'Sample rate' }).disabled).toBe(
      true,
    )
  })

  it('sends a track to a group, and says where what was in a removed one goes', async () => {
    const group: Edit = { kind: 'add-group', id: 'g', name: 'Drums', members: [] }
    const { user, session } = show(<GatherPage />, sessionOf(['Kick', 'Snare'], group))
    const output = screen.getByRole('combobox', { name: 'Kick routed to' })
    await user.selectOptions(output, within(output).getByRole('option', { name: /Drums/ }))
    expect(session().tracks[0].output).toBe('g')
    await user.click(screen.getByRole('button', { name: 'Remove Drums' }))
    expect(session().tracks[0].output).toBe('mix')
    expect(store.getState().interface.notice?.text).toContain('now feed its former destination')
  })
})

describe('working levels', () => {
  it('are shown before they are made, and made in one step', async () => {
    const { user, session } = show(<GatherPage />, sessionOf(['Voice', 'Pad']), measured(-18, -31))
    await user.click(screen.getByRole('button', { name: 'Propose levels' }))
    const table = within(screen.getByRole('table', { name: 'Proposed levels' }))
    const rows = table.getAllByRole('row').slice(1)
    expect(
      rows.map((r) =>
        within(r)
          .getAllByRole('cell')
          .map((c) => c.textContent),
      ),
    ).toEqual([
      ['Voice', '−18.0', '−6.0', '0.0'],
      ['Pad', '−31.0', '+7.0', '−8.0'],
    ])
    expect(session().tracks[0].trimDb).toBe(0)
    await user.click(screen.getByRole('button', { name: 'Set levels' }))
    expect(session().tracks.map((t) => [t.trimDb, t.faderDb])).toEqual([
      [-6, 0],
      [7, -8],
    ])
    expect(store.getState().session.past.length).toBe(1)
  })

  it('leave faders alone where only trims are wanted', async () => {
    const fader: Edit = { kind: 'set-node', node: 't1', change: { faderDb: -3 } }
    const { user, session } = show(
      <GatherPage />,
      sessionOf(['Voice', 'Pad'], fader),
      measured(-18, -31),
    )
    await user.click(screen.getByRole('button', { name: 'Propose levels' }))
    await user.click(screen.getByRole('checkbox', { name: 'Set faders by role too' }))
    await user.click(screen.getByRole('button', { name: 'Set levels' }))
    expect(session().tracks[1].faderDb).toBe(-3)
  })

  it('show how far the lead stands over the rest, and set it', async () => {
    const { user, session } = show(<GatherPage />, sessionOf(['Voice', 'Pad']), measured(-20, -20))
    const field = screen.getByRole<HTMLInputElement>('textbox', {
      name: 'Leads above the rest, LU',
    })
    expect(field.value).toBe('0.0')
    await user.clear(field)
    await user.type(field, '3{Enter}')
    expect(session().tracks[0].faderDb).toBe(3)
  })

  it('are not proposed while files come in, which would be left out', () => {
    const { open } = show(<GatherPage />, sessionOf(['Voice', 'Pad']), measured(-18, -31))
    const coming: Incoming = { key: '1', name: 'Kick.wav', state: { kind: 'waiting' } }
    const propose = () => screen.getByRole<HTMLButtonElement>('button', { name: 'Propose levels' })
    act(() => open.imports.files.set([coming]))
    screen.getByText('Levels can be proposed when all files are in: 1 to go.')
    expect(propose().disabled).toBe(true)
    act(() => open.imports.files.set([]))
    expect(propose().disabled).toBe(false)
  })

  it('wait for loudness alone, say so, and name the leads that they are set around', async () => {
    const { desk } = show(<GatherPage />, sessionOf(['Voice', 'Pad']), {}, (fake) =>
      fake.ask.loudness.mockImplementation(({ track: id }) =>
        id === 't0' ? Promise.resolve(-20) : new Promise((done) => (answer = done)),
      ),
    )
    const button = screen.getByRole<HTMLButtonElement>('button', { name: 'Propose levels' })
    await screen.findByText('Measuring loudness: 1 of 2 tracks …')
    expect(button.disabled).toBe(true)
    await act(async () => answer(-31))
    expect(button.disabled).toBe(false)
    screen.getByText('Lead: Voice.')
    expect(desk.ask.loudness).toHaveBeenCalledTimes(2)
  })

  it('say what to do where nothing leads; a tick in the table makes a lead', async () => {
    const none: Edit = { kind: 'set-lead', track: 't0', lead: false }
    const { user, session } = show(
      <GatherPage />,
      sessionOf(['Voice', 'Pad'], none),
      measured(-18, -31),
    )
    screen.getByText(/No lead selected: tick Lead in the table/)
    await user.click(screen.getByRole('checkbox', { name: 'Pad leads' }))
    expect(session().leadIds).toEqual(['t1'])
    screen.getByText('Lead: Pad.')
  })

  it('are typed too: a trim in the table, ahead of the chain', async () => {
    const { user, session } = show(<GatherPage />, sessionOf(['Voice']), measured(-18))
    const field = screen.getByRole('textbox', { name: 'Trim of Voice' })
    await user.clear(field)
    await user.type(field, '-4.5{Enter}')
    expect(session().tracks[0].trimDb).toBe(-4.5)
  })
})
