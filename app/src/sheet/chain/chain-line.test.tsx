// @vitest-environment happy-dom
import type { Edit } from '@sober-prism/core/session'
import { type KindName, newTreatment, type StageName } from '@sober-prism/core/treatments'
import { fireEvent, screen, within } from '@testing-library/react'
import { describe, expect, it } from 'vitest'
import { store } from '../../store/store'
import { sessionOf, show } from '../../testing/render'
import { ChainLine } from './chain-line'

const added = (kind: KindName, id: string, stage: StageName): Edit => ({
  kind: 'add-treatment',
  node: 't0',
  treatment: newTreatment(kind, id, stage),
  before: null,
})
const CHAIN = [
  added('equaliser', 'e', 'clean'),
  added('follow', 'f', 'fit'),
  added('leveller', 'l', 'shape'),
]

describe('the line of a chain', () => {
  const shown = () => {
    const made = show(<ChainLine />, sessionOf(['Voice', 'Guitar'], ...CHAIN))
    const order = () => made.session().tracks[0].chain.treatments.map((t) => `${t.stage} ${t.id}`)
    const menuOf = async (name: string) => {
      fireEvent.contextMenu(screen.getByRole('button', { name: new RegExp(`^${name}, place`) }))
      return within(await screen.findByRole('menu', { name: 'Treatment' }))
    }
    return { ...made, order, menuOf }
  }

  it('has every treatment in order, switched on its chip, with a mark for what moves', async () => {
    const { user, session } = shown()
    const chips = screen.getAllByRole('button', { name: /, place \d of 3/ })
    expect(chips.map((c) => c.getAttribute('aria-label'))).toEqual([
      'Equaliser, place 1 of 3',
      'Dynamic EQ, place 2 of 3, moves with the sound',
      'Leveller, place 3 of 3, moves with the sound',
    ])
    await user.click(screen.getByRole('checkbox', { name: 'Dynamic EQ on' }))
    expect(session().tracks[0].chain.treatments[1].on).toBe(false)
    await user.click(chips[2])
    expect(store.getState().interface).toMatchObject({ treatmentId: 'l', stage: 'shape' })
  })

  it('is worked on from the menu of a chip', async () => {
    const { user, order, menuOf, desk } = shown()
    await user.click((await menuOf('Equaliser')).getByRole('menuitem', { name: 'Move later' }))
    expect(order()).toEqual(['fit f', 'fit e', 'shape l'])
    await user.click((await menuOf('Leveller')).getByRole('menuitem', { name: 'Move earlier' }))
    expect(order()).toEqual(['fit f', 'fit l', 'fit e'])
    await user.click((await menuOf('Dynamic EQ')).getByRole('menuitem', { name: 'Move to Shape' }))
    expect(order()).toEqual(['fit l', 'fit e', 'shape f'])
    const listening = await menuOf('Dynamic EQ')
    await user.click(listening.getByRole('menuitem', { name: 'Listen without it' }))
    expect(desk.hear).toHaveBeenLastCalledWith({
      kind: 'without',
      target: { of: 'treatment', node: 't0', treatment: 'f' },
    })
    const last = await menuOf('Dynamic EQ')
    // Nothing stands behind it.
    const later = last.getByRole('menuitem', { name: 'Move later' })
    expect(later.getAttribute('aria-disabled')).toBe('true')
    await user.click(last.getByRole('menuitem', { name: 'Remove' }))
    expect(order()).toEqual(['fit l', 'fit e'])
  })

  it('has what stands before and behind the chain on a button', async () => {
    const { user, session } = shown()
    await user.click(screen.getByRole('button', { name: 'Output 0.0 dB' }))
    const ends = within(screen.getByRole('dialog', { name: 'Trim and output' }))
    await user.clear(ends.getByRole('textbox', { name: 'Trim, dB' }))
    await user.type(ends.getByRole('textbox', { name: 'Trim, dB' }), '-3{Enter}')
    await user.click(ends.getByRole('checkbox', { name: 'Chain polarity inverted' }))
    expect(session().tracks[0]).toMatchObject({
      trimDb: -3,
      chain: { output: { gainDb: 0, polarity: 'inverted' } },
    })
    await user.keyboard('{Escape}')
    await screen.findByRole('button', { name: 'Trim −3.0 · Output 0.0 dB ⌀' })
  })
})
