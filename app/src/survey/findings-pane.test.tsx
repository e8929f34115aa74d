// @vitest-environment happy-dom

import { newBand } from '@sober-prism/core/filters'
import type { Edit } from '@sober-prism/core/session'
import { newChainBand } from '@sober-prism/core/treatments'
import type { Analysis, SessionFinding } from '@sober-prism/engine'
import { act, screen, within } from '@testing-library/react'
import { describe, expect, it } from 'vitest'
import { store } from '../store/store'
import { sessionOf, show } from '../testing/render'
import { FindingsPane } from './findings-pane'

const cut: Edit = {
  kind: 'add-band',
  node: 't1',
  stage: 'fit',
  treatment: null,
  newTreatment: 'n',
  chainBand: newChainBand('m', { ...newBand('bell', 1500), db: -3.5, q: 1 }),
}

const covers = (severity: number, hz = 1500): SessionFinding => ({
  key: `masking ${hz}`,
  kind: 'masking',
  tracks: ['t1', 't0'],
  hz,
  fromHz: hz / 2,
  toHz: hz * 2,
  severity,
  evidence: {
    kind: 'masking',
    target: 't0',
    masker: 't1',
    lostSone: severity,
    lostShare: 0.4,
    where: 'middle',
    timeShare: 0.7,
    freed: [],
  },
  times: [],
  offered: true,
  moves: [cut],
  predicted: { measure: { of: 'heard', track: 't0' }, before: 0.5, after: 0.6 },
  state: 'x',
})

const found = (...findings: SessionFinding[]): Partial<Analysis> => ({ fresh: true, findings })
const session = () => sessionOf(['Voice', 'Guitar'])

describe('findings', () => {
  it('say that they come, and that there are none', () => {
    const { unmount } = show(<FindingsPane />, session())
    screen.getByText(/Findings appear here once measured/)
    unmount()
    show(<FindingsPane />, session(), found())
    screen.getByText('The session is in order: no finding is worth a move.')
  })

  it('say what is being measured, and stop it', async () => {
    const work = { what: 'Measuring tracks and mix', share: 0.25 }
    const { user, desk } = show(<FindingsPane />, session(), { work })
    screen.getByRole('progressbar', { name: 'Measuring tracks and mix' })
    await user.click(screen.getByRole('button', { name: 'Stop: Measuring tracks and mix' }))
    expect(desk.analyser.cancel).toHaveBeenCalled()
  })

  it('say what went wrong, and try again', async () => {
    const { user, desk } = show(<FindingsPane />, session(), { problem: 'A worker stopped.' })
    screen.getByText('A worker stopped.')
    await user.click(screen.getByRole('button', { name: 'Measure' }))
    expect(desk.analyser.restart).toHaveBeenCalled()
  })

  it('are told with their figures, worst open, and what was only measured on request, without moves', async () => {
    const { user } = show(
      <FindingsPane />,
      session(),
      found(covers(2), { ...covers(0.1, 400), offered: false, moves: [], predicted: null }),
    )
    expect(screen.getAllByRole('article').length).toBe(1)
    const card = within(screen.getByRole('article'))
    card.getByText('2.00 sone')
    card.getByText(/Cut Guitar at 1.50 kHz by 3.5 dB, Q 1/)
    expect(screen.getByRole('article').textContent).toContain('50.0 % → 60.0 %')
    await user.click(screen.getByRole('button', { name: 'Show all that was measured (1)' }))
    const [, measured] = screen.getAllByRole('article')
    expect(within(measured).queryByRole('button')).toBeNull()
    await user.click(screen.getByRole('button', { name: 'Hide all that was measured (1)' }))
  })

  it('is applied once, until it is measured anew or undone', async () => {
    const { user, state, session: now } = show(<FindingsPane />, session(), found(covers(2)))
    const apply = () => screen.getByRole<HTMLButtonElement>('button', { name: /^Appl/ })
    await user.click(apply())
    // While it is measured, the finding still stands.
    act(() => state.set({ ...state.value, fresh: false }))
    expect([apply().textContent, apply().disabled]).toEqual(['Applied, measuring…', true])
    expect(now().tracks[1].chain.treatments).toHaveLength(1)
    // Undone, the state that was measured stands again.
    act(() => state.set({ ...state.value, fresh: true }))
    expect([apply().textContent, apply().disabled]).toEqual(['Apply', false])
    act(() => state.set({ ...state.value, fresh: false }))
    act(() => state.set({ ...state.value, findings: [covers(1)] }))
    expect(apply().disabled).toBe(false)
  })

  it.each([
    ['drums', 'Drums and cymbals ring by nature'],
    ['guitar', 'Too uncertain to be cut unheard'],
  ] as const)('say why nothing is proposed: %s', (role, words) => {
    const evidence = {
      kind: 'resonance',
      heightDb: 11,
      q: 17,
      likelihood: 0.93,
      decayRatio: null,
    } as const
    const ring = { ...covers(2), kind: 'resonance', tracks: ['t1'], evidence } as const
    const edit: Edit = { kind: 'set-node', node: 't1', change: { role } }
    show(
      <FindingsPane />,
      sessionOf(['Voice', 'Hats'], edit),
      found({ ...ring, moves: [], predicted: null }),
    )
    expect(screen.getByRole('article').textContent).toContain(words)
  })

  it('are applied as one step that carries its reason and can be taken back', async () => {
    const { user, session: now } = show(<FindingsPane />, session(), found(covers(2)))
    await user.click(screen.getByRole('button', { name: 'Apply' }))
    const [equaliser] = now().tracks[1].chain.treatments
    const chainBand = equaliser.kind === 'equaliser' ? equaliser.params.bands[0] : null
    expect(chainBand?.reason).toContain('Guitar masks Voice')
    expect(chainBand?.evidence).toMatchObject({ before: 0.5, predicted: 0.6 })
    expect(store.getState().session.past.length).toBe(1)
    expect(store.getState().interface.notice?.undo).toBe('edit')
    screen.getByText('Moves made')
  })

  it('are dismissed with a reason that stands in the session', async () => {
    const { user, session: now } = show(<FindingsPane />, session(), found(covers(2)))
    await user.click(screen.getByRole('button', { name: 'Dismiss' }))
    const reason = screen.getByRole('combobox', { name: 'Reason' })
    await user.clear(reason)
    await user.type(reason, 'they answer each other')
    await user.click(screen.getByRole('button', { name: 'Dismiss until the sound changes' }))
    expect(now().dismissed[0]?.reason).toBe('they answer each other')
  })

  it('are heard three ways', async () => {
    const { user, desk } = show(<FindingsPane />, session(), found(covers(2)))
    await user.click(screen.getByRole('button', { name: 'Listen' }))
    expect(desk.hear).toHaveBeenCalledWith(
      { kind: 'finding', key: 'masking 1500', mode: 'forward' },
      expect.objectContaining({ key: 'masking 1500' }),
    )
    const rendition = { kind: 'finding', key: 'masking 1500', mode: 'forward' }
    act(() => desk.heard.set({ rendition, gainDb: 0 } as never))
    await user.click(screen.getByRole('button', { name: 'Without move' }))
    expect(desk.hear).toHaveBeenLastCalledWith(
      expect.objectContaining({ mode: 'without' }),
      expect.anything(),
    )
  })

  it('follow the leads, which are chosen above', async () => {
    const { user, session: now } = show(<FindingsPane />, session(), found())
    await user.click(screen.getByRole('button', { name: 'Guitar leads', pressed: false }))
    expect(now().leadIds).toEqual(['t0', 't1'])
  })

  it('ask for a lead before a plan, and for two tracks before a table', async () => {
    const lone = sessionOf(['Voice'], { kind: 'set-lead', track: 't0', lead: false })
    const { user } = show(<FindingsPane />, lone, found())
    await user.click(screen.getByRole('tab', { name: 'Plan' }))
    screen.getByText(/No lead selected/)
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Plan moves' }).disabled).toBe(
      true,
    )
    await user.click(screen.getByRole('tab', { name: 'Masking' }))
    screen.getByText('Two tracks or more are needed.')
  })
})
