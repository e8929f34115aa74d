// @vitest-environment happy-dom
import 'fake-indexeddb/auto'
import { newBand } from '@sober-prism/core/filters'
import { type Edit, parsePresetFile, writePresetFile } from '@sober-prism/core/session'
import { newChainBand } from '@sober-prism/core/treatments'
import { act, screen, within } from '@testing-library/react'
import { describe, expect, it, vi } from 'vitest'
import { interfaceActions } from '../../store/interface-slice'
import { store } from '../../store/store'
import { sessionOf, show } from '../../testing/render'
import PresetsDialog from './presets-dialog'
import { READY_MADE } from './ready-made'

const bell: Edit = {
  kind: 'add-band',
  node: 't0',
  stage: 'clean',
  treatment: null,
  newTreatment: 'e',
  chainBand: newChainBand('b', { ...newBand('bell', 320), db: -4, q: 1 }),
}
const treatmentsOf = (session: ReturnType<typeof sessionOf>) => session.tracks[0].chain.treatments
const shown = () => {
  const made = show(<PresetsDialog />, sessionOf(['Voice'], bell))
  act(() => void store.dispatch(interfaceActions.stageChosen('clean')))
  return made
}
const item = (name: string) => screen.getByText(name).closest('li') as HTMLElement

describe('presets', () => {
  it('that are ready-made can be written, read, and are told apart by their names', () => {
    expect(parsePresetFile(writePresetFile(READY_MADE))).toHaveLength(READY_MADE.length)
    expect(new Set(READY_MADE.map((p) => p.name)).size).toBe(READY_MADE.length)
  })

  it('are found by words and tags, added to the stage in work, or take a treatment’s place', async () => {
    const { user, session } = shown()
    await user.type(screen.getByLabelText('Name, word or tag'), 'guitar box')
    expect(screen.getAllByRole('listitem')).toHaveLength(1)
    await user.click(within(item('Boxy')).getByRole('button', { name: 'Add' }))
    expect(treatmentsOf(session()).map((t) => t.stage)).toEqual(['clean', 'clean'])
    await user.click(within(item('Boxy')).getByRole('button', { name: 'Replace equaliser' }))
    expect(treatmentsOf(session()).map((t) => t.reason)).toEqual(['', 'Preset: Boxy'])
  })

  it('go into the chains of all that is selected, in one step', async () => {
    const { user, session } = show(<PresetsDialog />, sessionOf(['Voice', 'Guitar', 'Bass'], bell))
    act(() => void store.dispatch(interfaceActions.nodesChosen(['t0', 't2'])))
    expect(screen.getByRole('heading', { name: 'Presets for 2 tracks' })).toBeTruthy()
    const past = store.getState().session.past.length
    await user.click(within(item('Boxy')).getByRole('button', { name: 'Add' }))
    const reasons = () => session().tracks.map((t) => t.chain.treatments.map((x) => x.reason))
    expect(reasons()).toEqual([['', 'Preset: Boxy'], [], ['Preset: Boxy']])
    expect(store.getState().session.past.length).toBe(past + 1)
  })

  it('are kept of what stands in the chain, changed, and removed', async () => {
    const { user, session } = shown()
    await user.selectOptions(screen.getByLabelText('What to save'), 'Save all of Clean')
    await user.type(screen.getByLabelText('Name'), 'My room')
    await user.type(screen.getByLabelText('Tags, with commas'), 'room, voice')
    await user.click(screen.getByRole('button', { name: 'Save' }))
    const mine = await screen.findByText('My room')
    expect(within(mine.closest('li') as HTMLElement).getByText('voice')).toBeTruthy()
    await user.click(within(item('My room')).getByRole('button', { name: 'Replace the stage' }))
    expect(treatmentsOf(session()).map((t) => t.reason)).toEqual(['Preset: My room'])
    await user.click(within(item('My room')).getByRole('button', { name: 'Edit…' }))
    const name = screen.getByLabelText('Name')
    await user.clear(name)
    await user.type(name, 'Their room')
    await user.click(screen.getByRole('button', { name: 'Save' }))
    await screen.findByText('Their room')
    await user.click(within(item('Their room')).getByRole('button', { name: 'Delete' }))
    await screen.findByText(/None yet/)
  })

  it('come in from a file; one that does not fit is told and changes nothing', async () => {
    const { user } = shown()
    const file = (text: string) => new File([text], 'p.json', { type: 'application/json' })
    const field = screen.getByLabelText('Preset file')
    await user.upload(field, file('{"version":1,"presets":[{}]}'))
    await vi.waitFor(() => expect(store.getState().interface.notice?.text).toMatch(/presets\[0\]/))
    await user.upload(
      field,
      file(writePresetFile(READY_MADE.slice(0, 2).map((p) => ({ ...p, name: `${p.name} 2` })))),
    )
    await screen.findByText('Rumble below a low voice 2')
  })
})
