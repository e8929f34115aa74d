// @vitest-environment happy-dom
import { newBand } from '@sober-prism/core/filters'
import { type Edit, sessionInVariation } from '@sober-prism/core/session'
import {
  type KindName,
  newChainBand,
  newTreatment,
  type StageName,
} from '@sober-prism/core/treatments'
import { fireEvent, screen, within } from '@testing-library/react'
import { describe, expect, it, vi } from 'vitest'
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

  it('keeps the shape of an equaliser by cuts alone as a variation beside what was', async () => {
    const boost = newChainBand('b', { ...newBand('bell', 3000), db: 5, q: 1 })
    const chain: Edit = {
      kind: 'add-treatment',
      node: 't0',
      treatment: newTreatment('equaliser', 'e', 'shape', { phase: 'minimum', bands: [boost] }),
      before: null,
    }
    const { user, desk, session } = show(<ChainLine />, sessionOf(['Voice'], chain))
    const cut = { ...newBand('low-shelf', 1000), db: -5 }
    desk.ask.shape.mockResolvedValueOnce({ shape: { bands: [cut], gainDb: 5, rmsErrorDb: 0.3 } })
    const open = async () => {
      fireEvent.contextMenu(screen.getByRole('button', { name: /^Equaliser, place/ }))
      return within(await screen.findByRole('menu', { name: 'Treatment' }))
    }
    const menu = await open()
    const byBoosts = menu.getByRole('menuitem', { name: 'Keep a variation by boosts alone' })
    expect(byBoosts.getAttribute('aria-disabled')).toBe('true')
    await user.click(menu.getByRole('menuitem', { name: 'Keep a variation by cuts alone' }))
    await vi.waitFor(() => expect(session().variations.list.length).toBe(2))
    expect(session().variations.list.map((v) => v.name)).toEqual([
      'As it was',
      'Voice by cuts alone',
    ])
    const { chain: now } = session().tracks[0]
    expect(now.treatments[0]).toMatchObject({ params: { bands: [{ band: cut }] } })
    expect(now.output.gainDb).toBe(5)
    const came = sessionInVariation(session(), session().variations.list[0].id)
    expect(came.tracks[0].chain.treatments[0]).toMatchObject({ params: { bands: [boost] } })
    // A shape that cannot be had changes nothing.
    desk.ask.shape.mockResolvedValueOnce({ shape: null })
    const again = await open()
    await user.click(again.getByRole('menuitem', { name: 'Keep a variation by boosts alone' }))
    await vi.waitFor(() =>
      expect(store.getState().interface.notice?.text).toMatch(
        /^This shape cannot be had by boosts/,
      ),
    )
    expect(session().variations.list.length).toBe(2)
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
