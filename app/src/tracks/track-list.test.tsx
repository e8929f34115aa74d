// @vitest-environment happy-dom
import type { Edit } from '@sober-prism/core/session'
import { screen, within } from '@testing-library/react'
import { beforeEach, describe, expect, it } from 'vitest'
import { interfaceActions } from '../store/interface-slice'
import { chosenNodes } from '../store/selectors'
import { store } from '../store/store'
import { sessionOf, show } from '../testing/render'
import { TrackList } from './track-list'

beforeEach(() => {
  store.dispatch(interfaceActions.tracksFiltered(''))
  store.dispatch(interfaceActions.tracksOrdered('hand'))
})

const rows = () => within(screen.getByRole('list')).getAllByRole('listitem')

describe('the tracks at the left', () => {
  it('say so while there are none', () => {
    show(<TrackList />, sessionOf([]))
    screen.getByText('Imported tracks appear here.')
    screen.getByRole('button', { name: 'Mix' })
  })

  it('are chosen one at a time, or several with Ctrl', async () => {
    const { user } = show(<TrackList />, sessionOf(['Voice', 'Kick', 'Snare']))
    await user.click(screen.getByRole('button', { name: 'Kick' }))
    expect(chosenNodes(store.getState())).toEqual(['t1'])
    await user.keyboard('{Control>}')
    await user.click(screen.getByRole('button', { name: 'Snare' }))
    await user.keyboard('{/Control}')
    expect(chosenNodes(store.getState())).toEqual(['t1', 't2'])
    expect(screen.getByRole('button', { name: 'Snare' }).getAttribute('aria-pressed')).toBe('true')
    await user.click(screen.getByRole('button', { name: 'Mix' }))
    expect(chosenNodes(store.getState())).toEqual(['mix'])
  })

  it('are muted, soloed and lifted; what is for listening is no step of undo', async () => {
    const { user, session } = show(<TrackList />, sessionOf(['Voice', 'Kick']))
    const steps = () => store.getState().session.past.length
    await user.click(screen.getByRole('button', { name: 'solo Kick' }))
    await user.click(screen.getByRole('button', { name: 'lift Voice' }))
    expect(steps()).toBe(0)
    await user.click(screen.getByRole('button', { name: 'mute Kick' }))
    expect(steps()).toBe(1)
    const [voice, kick] = session().tracks
    expect([voice.lift, kick.solo, kick.mute]).toEqual([true, true, true])
  })

  it('show how much of each is heard, and nothing for one that is muted', () => {
    const muted = { kind: 'set-node', node: 't1', change: { mute: true } } as const
    const parts = { hidden: 0.3, crowded: 0.4, clear: 0.3 }
    const heard = {
      share: 0.345,
      aloneSone: 10,
      inMixSone: 3.45,
      ...parts,
      covered: [],
      understood: null,
    }
    show(<TrackList />, sessionOf(['Voice', 'Kick'], muted), {
      heard: new Map([
        ['t0', heard],
        ['t1', heard],
      ]),
    })
    expect(
      rows().map((r) => within(r).getByTitle(/loudness that is not masked/).textContent),
    ).toEqual(['35 %', '–'])
  })

  it('fold away under their group, and come back', async () => {
    const members = ['t1', 't2']
    const group: Edit = { kind: 'add-group', id: 'g', name: 'Drums', members }
    const { user } = show(<TrackList />, sessionOf(['Voice', 'Kick', 'Snare'], group))
    expect(rows().length).toBe(4)
    await user.click(screen.getByRole('button', { name: 'Fold Drums' }))
    expect(rows().length).toBe(2)
    await user.click(screen.getByRole('button', { name: 'Unfold Drums' }))
    expect(rows().length).toBe(4)
  })

  it('are narrowed by words, and all shown again', async () => {
    const { user } = show(<TrackList />, sessionOf(['Voice', 'Kick', 'Snare']))
    await user.type(screen.getByRole('textbox', { name: /name or role/ }), 'sna')
    expect(rows().length).toBe(1)
    await user.type(screen.getByRole('textbox', { name: /name or role/ }), 'xx')
    screen.getByText('No track goes by “snaxx”.')
    await user.click(screen.getByRole('button', { name: 'Show all' }))
    expect(rows().length).toBe(3)
  })

  it('hold sixty of them with names as long as names get', () => {
    const long = 'A very long name of a track '.repeat(7).slice(0, 200)
    show(
      <TrackList />,
      sessionOf(Array.from({ length: 60 }, (_, i) => `${i} ${long}`.slice(0, 200))),
    )
    expect(rows().length).toBe(60)
    for (const row of rows()) expect(within(row).getAllByRole('slider').length).toBe(1)
  })
})
