// @vitest-environment happy-dom
import { newBand } from '@sober-prism/core/filters'
import { newChainBand } from '@sober-prism/core/treatments'
import { act, screen, within } from '@testing-library/react'
import { describe, expect, it } from 'vitest'
import { sessionOf, show } from '../testing/render'
import { DESCRIBED, hearThrough, switchPlayback } from '../transport/playbacks'
import { HeardThere } from './heard-there'
import { OtherPlayback, usePlaybackShown } from './other-playback'

const [telephone] = DESCRIBED
function Shown() {
  return <OtherPlayback {...usePlaybackShown()} />
}

describe('other playback', () => {
  it('lists what one can listen through, says what it is, and lets it be heard', async () => {
    const { user, desk } = show(<Shown />, sessionOf(['Voice']))
    const list = screen.getByRole('list', { name: 'Playbacks' })
    expect(within(list).getAllByRole('listitem').length).toBe(8)
    expect(screen.getByText(/A loudspeaker of a few millimetres/)).toBeTruthy()
    await user.click(screen.getByRole('button', { name: 'Car on the road' }))
    expect(screen.getByText(/noise −12 LU under it/)).toBeTruthy()
    await user.click(screen.getByRole('button', { name: 'Listen: Car on the road' }))
    expect(desk.elsewhere.set).toHaveBeenLastCalledWith(
      expect.objectContaining({ playback: expect.objectContaining({ name: 'car' }) }),
    )
  })

  it('goes back to what is rendered, and by the key to the last one', () => {
    const { open, desk } = show(<Shown />, sessionOf(['Voice']))
    act(() => desk.elsewhere.state.set({ choice: telephone, gainDb: -1, trouble: null } as never))
    act(() => hearThrough(open.desk, telephone))
    expect(desk.elsewhere.set).toHaveBeenLastCalledWith(null)
    act(() => desk.elsewhere.state.set(null))
    act(() => switchPlayback(open.desk))
    expect(desk.elsewhere.set).toHaveBeenLastCalledWith(telephone)
  })

  it('says who is lost there, and makes the move that helps', async () => {
    const fake = show(<HeardThere choice={telephone} />, sessionOf(['Voice', 'Tuba']), {
      fresh: false,
    })
    expect(screen.getByRole('status').textContent).toBe('Measuring…')
    const move = {
      kind: 'add-band',
      node: 't1',
      stage: 'shape',
      treatment: null,
      newTreatment: 'proposed',
      chainBand: newChainBand('proposed', { ...newBand('bell', 400), db: 4, q: 1 }),
    }
    fake.desk.analyser.heardThrough.mockResolvedValue([
      {
        track: 't0',
        here: 0.8,
        there: 0.9,
        isLost: false,
        lostSone: 0,
        carries: null,
        moves: [],
        after: null,
      },
      {
        track: 't1',
        here: 0.31,
        there: 0.04,
        isLost: true,
        lostSone: 1,
        carries: { fromHz: 200, toHz: 400 },
        moves: [move],
        after: 0.12,
      },
    ])
    act(() => {
      const { state } = fake.desk.analyser
      state.set({ ...state.value, fresh: true })
    })
    expect(
      await screen.findByText(
        'Tuba is 4 % heard on a telephone, 31 % here. What it has at 200 Hz to 400 Hz could carry it.',
      ),
    ).toBeTruthy()
    expect(screen.getByRole('status').textContent).toMatch(/^One track is heard here and lost/)
    await fake.user.click(screen.getByRole('button', { name: 'Apply' }))
    expect(fake.session().tracks[1].chain.treatments.length).toBe(1)
  })
})
