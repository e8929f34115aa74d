// @vitest-environment happy-dom
import { newBand } from '@sober-prism/core/filters'
import type { Edit } from '@sober-prism/core/session'
import { newChainBand } from '@sober-prism/core/treatments'
import { act, screen, within } from '@testing-library/react'
import { describe, expect, it } from 'vitest'
import { sessionActions } from '../store/session-slice'
import { store } from '../store/store'
import { sessionOf, show } from '../testing/render'
import { doubtEdit, doubtsOf } from './doubts'
import { SecondLook } from './second-look'

const bell = (node: string, id: string, db: number, hz = 300): Edit => ({
  kind: 'add-band',
  node,
  stage: 'shape',
  treatment: null,
  newTreatment: `e-${id}`,
  chainBand: newChainBand(id, { ...newBand('bell', hz), db, q: 0.8 }),
})
const levels = new Float64Array(60).fill(-40)
const measured = {
  fresh: true,
  tracks: new Map([
    ['t0', { levels, lufs: -20 }],
    ['t1', { levels: levels.map((v, i) => (i > 40 ? -180 : v)), lufs: -20 }],
  ]),
} as never

describe('the second look', () => {
  it('tells what deserves one, hears without it, and answers at a press', async () => {
    const session = sessionOf(['Voice', 'Bass'], bell('t1', 'b', 9))
    const { user, desk, session: now } = show(<SecondLook />, session, measured)
    expect(screen.getByRole('status').textContent).toMatch(/^One thing asks/)
    await user.click(screen.getByRole('button', { name: 'Listen without it' }))
    expect(desk.hear).toHaveBeenLastCalledWith({
      kind: 'without',
      target: { of: 'treatment', node: 't1', treatment: 'e-b' },
    })
    await user.click(screen.getByRole('button', { name: 'Halve it to +4.5 dB' }))
    expect(now().tracks[1].chain.treatments[0]).toMatchObject({
      params: { bands: [{ band: { db: 4.5 } }] },
    })
    expect(await screen.findByText('Nothing asks for a second look.')).toBeTruthy()
  })

  it('stays quiet about what was left, until it changes', async () => {
    const session = sessionOf(['Voice', 'Bass'], bell('t1', 'b', 9))
    const { user } = show(<SecondLook />, session, measured)
    await user.click(screen.getByRole('button', { name: 'Leave it' }))
    expect(await screen.findByText('Nothing asks for a second look.')).toBeTruthy()
    const change = { band: { db: 10 } }
    const louder: Edit = { kind: 'set-band', node: 't1', treatment: 'e-b', band: 'b', change }
    act(() => void store.dispatch(sessionActions.edited([louder])))
    expect(await screen.findByText(/^One thing asks/)).toBeTruthy()
  })

  it('takes all out together that nobody hears, in one step', async () => {
    const session = sessionOf(
      ['Voice', 'Bass'],
      bell('t1', 'b', -3, 14_000),
      bell('t1', 'c', -2, 17_000),
      bell('t0', 'd', -3),
    )
    const { user, session: now } = show(<SecondLook />, session, measured)
    const past = store.getState().session.past.length
    await user.click(screen.getByRole('button', { name: 'Take out all 2 that nobody hears' }))
    expect(store.getState().session.past.length).toBe(past + 1)
    const bands = now().tracks.map((t) =>
      t.chain.treatments.flatMap((x) => (x.kind === 'equaliser' ? x.params.bands.length : [])),
    )
    expect(bands).toEqual([[1], [0]])
  })

  it('loops the loudest S of a voice that is boosted there', async () => {
    const voice: Edit = { kind: 'set-node', node: 't0', change: { role: 'voice' } }
    const session = sessionOf(['Voice'], voice, bell('t0', 'b', 4.5, 5000))
    const { user, desk } = show(<SecondLook />, session, measured)
    const stretch = { fromFrame: 100, toFrame: 60_000 }
    desk.ask.loudest.mockResolvedValueOnce(stretch)
    await user.click(screen.getByRole('button', { name: 'Loop the loudest S' }))
    expect(desk.ask.loudest.mock.calls[0][0]).toEqual({ node: 't0', fromHz: 4000, toHz: 10_000 })
    expect(desk.hear).toHaveBeenLastCalledWith({
      kind: 'region',
      node: 't0',
      stretch,
      fromHz: 20,
      toHz: 20_000,
    })
  })

  it('keeps a doubt for rested ears, and offers it when they are', async () => {
    const { user, session, desk } = show(
      <SecondLook />,
      sessionOf(['Voice', 'Bass'], bell('t1', 'b', 9)),
      measured,
    )
    await user.click(screen.getByRole('button', { name: 'Listen to this tomorrow' }))
    expect(await screen.findByText(/^One doubt is kept/)).toBeTruthy()
    expect(doubtsOf(session()).rested).toEqual([])
    const hours = (n: number) => new Date(Date.now() - n * 3600 * 1000)
    expect(doubtsOf(session(), Date.now() + 5 * 3600 * 1000).rested.length).toBe(1)
    act(() => {
      store.dispatch(sessionActions.edited([doubtEdit('t1', 'e-b', hours(20))]))
    })
    const card = within(await screen.findByRole('article', { name: 'Bass: Equaliser' }))
    await user.click(card.getByRole('button', { name: 'Listen without it' }))
    expect(desk.hear).toHaveBeenCalled()
    await user.click(card.getByRole('button', { name: 'Take it out' }))
    expect(session().tracks[1].chain.treatments).toEqual([])
    expect(doubtsOf(session(), Date.now() + 5 * 3600 * 1000).rested).toEqual([])
  })
})
