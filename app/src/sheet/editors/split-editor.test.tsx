// @vitest-environment happy-dom

import { chainOf } from '@sober-prism/core/session'
import { newTreatment, type SplitParams } from '@sober-prism/core/treatments'
import { act, screen, within } from '@testing-library/react'
import type { UserEvent } from '@testing-library/user-event'
import { describe, expect, it, vi } from 'vitest'
import { undo } from '../../store/history'
import { interfaceActions } from '../../store/interface-slice'
import { store } from '../../store/store'
import { sessionOf, show } from '../../testing/render'
import { clearListening, listeningWords } from '../../transport/listening'
import { EqualiserSheet } from '../equaliser-sheet'

const shown = () => {
  const treatment = newTreatment('split', 's', 'shape')
  const session = sessionOf(['Singer'], {
    kind: 'add-treatment',
    node: 't0',
    treatment,
    before: null,
  })
  const all = show(<EqualiserSheet />, session)
  act(() => void store.dispatch(interfaceActions.treatmentChosen({ treatmentId: 's' })))
  const params = () => chainOf(all.session(), 't0')?.treatments[0].params as SplitParams
  return { ...all, params }
}
const field = (name: RegExp) => screen.getByRole('textbox', { name })
const type = async (user: UserEvent, name: RegExp, text: string) => {
  await user.clear(field(name))
  await user.type(field(name), `${text}{Enter}`)
}
const press = (user: UserEvent, name: string | RegExp) =>
  user.click(screen.getByRole('button', { name }))

/** Marks could be set in the chain's equaliser by a button of the same name: the editor's is meant. */
const addBell = async (user: UserEvent) => {
  const editor = within(screen.getByRole('group', { name: 'Equaliser in the band' }))
  await user.click(editor.getByRole('button', { name: 'Bell' }))
}

describe('bands of a split', () => {
  it('are parted where one says, two to five of them, never past each other', async () => {
    const { user, params } = shown()
    await type(user, /^Crossover 2/, '5k')
    await type(user, /^Crossover 1/, '9k')
    expect(params().hz).toEqual([200, 5000])
    await type(user, /^Crossover 1/, '150')
    await press(user, 'Band')
    expect(params().hz).toEqual([150, 5000, 10_000])
    expect(params().bands).toHaveLength(4)
    await press(user, 'Band')
    expect(params().bands).toHaveLength(5)
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Band' }).disabled).toBe(true)
    await press(user, /^Band 1, below/)
    await press(user, 'Remove band 1')
    expect(params().hz[0]).toBe(5000)
    for (let i = 0; i < 2; i++) await press(user, /^Remove band \d/)
    expect(params().bands).toHaveLength(2)
    const remove = screen.getByRole<HTMLButtonElement>('button', { name: /^Remove band \d/ })
    expect(remove.disabled).toBe(true)
  })

  it('have a kind and a slope, a level, a width and a mute', async () => {
    const { user, params } = shown()
    await user.selectOptions(screen.getByLabelText('Crossover'), 'Subtraction')
    await user.selectOptions(screen.getByLabelText('Slope'), '48 dB/oct')
    await press(user, /^Band 3, above/)
    await type(user, /^Level/, '-4.5')
    await type(user, /^Width/, '140')
    await press(user, 'Mute')
    expect(params().crossover).toBe('subtractive')
    expect(params().slopeDbPerOct).toBe(48)
    expect(params().bands.map((b) => b.levelDb)).toEqual([0, 0, -4.5])
    expect(params().bands[2]).toMatchObject({ width: 1.4, mute: true })
  })

  it('are heard alone for listening only, which is told and undone with all listening', async () => {
    const { user, params, open, session } = shown()
    await press(user, /^Band 2/)
    await press(user, 'Solo')
    expect(params().bands.map((b) => b.solo)).toEqual([false, true, false])
    const words = () => listeningWords(session(), store.getState().interface, null, null)
    expect(words()).toEqual(['only band 2 of Singer'])
    act(() => clearListening(store, open.desk))
    expect(words()).toEqual([])
    expect(params().bands.some((b) => b.solo)).toBe(false)
  })

  it('have a chain of their own, each with its values, switched off and removed', async () => {
    const { user, params } = shown()
    await press(user, /^Band 1/)
    const add = () => screen.getByLabelText('Add to this band…')
    await user.selectOptions(add(), 'Saturation')
    await type(user, /^Drive/, '9')
    expect(params().bands[0].treatments).toMatchObject([{ kind: 'drive', params: { driveDb: 9 } }])
    await user.selectOptions(add(), 'Leveller')
    await type(user, /^Ratio/, '8')
    await user.click(screen.getByRole('checkbox', { name: 'Leveller in the band on' }))
    expect(params().bands[0].treatments[1]).toMatchObject({ on: false, params: { ratio: 8 } })
    const list = within(screen.getByRole('group', { name: 'In band 1' }))
    await user.click(list.getByRole('button', { name: 'Saturation' }))
    await press(user, 'Remove saturation from the band')
    expect(params().bands[0].treatments.map((t) => t.kind)).toEqual(['leveller'])
    act(() => void store.dispatch(undo()))
    expect(params().bands[0].treatments).toHaveLength(2)
  })

  it('take an equaliser, whose bands stand below each other', async () => {
    const { user, params } = shown()
    await user.selectOptions(screen.getByLabelText('Add to this band…'), 'Equaliser')
    await addBell(user)
    await addBell(user)
    const second = within(screen.getByRole('group', { name: 'Band b of the equaliser' }))
    const gain = second.getByRole('textbox', { name: /^Gain/ })
    await user.clear(gain)
    await user.type(gain, '-3{Enter}')
    await user.click(second.getByRole('checkbox', { name: 'On' }))
    const [equaliser] = params().bands[0].treatments
    if (equaliser.kind !== 'equaliser') throw new Error('There is no equaliser in the band.')
    expect(equaliser.params.bands.map((m) => [m.on, m.band.db])).toEqual([
      [true, 0],
      [false, -3],
    ])
    await user.click(second.getByRole('button', { name: 'Remove' }))
    expect(screen.queryByRole('group', { name: 'Band b of the equaliser' })).toBeNull()
  })

  it('tell what their sum comes to, or why that is not known', async () => {
    const { user, desk } = shown()
    const crossoverSum = vi.fn<() => Promise<object | null>>(async () => ({
      flatWithinDb: 0.0004,
      nullDb: -141.6,
    }))
    Object.assign(desk.ask, { crossoverSum })
    await press(user, 'Test the sum')
    await screen.findByText(
      /flat within 0\.000 dB and|flat within 0\.000 dB; null against the input −142 dB/,
    )
    const spec = { kind: 'linkwitz-riley', slopeDbPerOct: 24, hz: [200, 2000] }
    expect(crossoverSum).toHaveBeenCalledWith({ node: 't0', spec }, expect.anything())
    crossoverSum.mockResolvedValueOnce({ flatWithinDb: 0.01, nullDb: null })
    await press(user, 'Test the sum')
    await screen.findByText(/flat within 0\.010 dB; phase shifted/)
    crossoverSum.mockResolvedValueOnce(null)
    await press(user, 'Test the sum')
    await screen.findByText('No audio to test with.')
    crossoverSum.mockRejectedValueOnce(new Error('The disk is gone.'))
    await press(user, 'Test the sum')
    await screen.findByText(/The disk is gone\./)
  })
})
