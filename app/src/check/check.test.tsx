// @vitest-environment happy-dom
import { newBand } from '@sober-prism/core/filters'
import { AS_IT_CAME, type Edit, type Session, workedIn } from '@sober-prism/core/session'
import { newChainBand } from '@sober-prism/core/treatments'
import { act, screen, waitFor, within } from '@testing-library/react'
import { describe, expect, it, vi } from 'vitest'
import { stepKeys } from '../shell/keys'
import { redo, undo } from '../store/history'
import { sessionActions } from '../store/session-slice'
import { store } from '../store/store'
import { sessionOf, show } from '../testing/render'
import { Component as CheckPage } from './check-page'
import { rmsOf, toneBetween } from './use-states'

const edit = (...edits: Edit[]) => act(() => void store.dispatch(sessionActions.edited(edits)))
const bell = (node: string, id: string, db: number): Edit => ({
  kind: 'add-band',
  node,
  stage: 'shape',
  treatment: null,
  newTreatment: `e-${id}`,
  chainBand: newChainBand(id, { ...newBand('bell', 700), db }),
})
const row = (name: string) => screen.getByRole('button', { name }).closest('tr') as HTMLElement
const keep = () => screen.getByRole('button', { name: 'Keep what stands as a new variation' })
const mixOf = (lufs: number | null, db = -30) => ({
  levels: new Float64Array(60).fill(db),
  lufs,
  truePeakDbtp: -3,
  rangeLu: 6.2,
})

describe('Check', () => {
  it('keeps what stands, goes on in the new one, and goes back to the one before', async () => {
    const { user, session, desk } = show(<CheckPage />, sessionOf(['Voice', 'Guitar']))
    await user.click(keep())
    edit(bell('t0', 'b', -3))
    await user.click(keep())
    edit(bell('t1', 'c', 4))
    expect(workedIn(session())?.number).toBe(2)
    await screen.findByRole('button', { name: 'Listen to Variation 2' })
    expect(within(row('Listen to Variation 2')).getByText('In work')).toBeTruthy()
    expect(desk.compare).toHaveBeenLastCalledWith([
      AS_IT_CAME,
      ...session().variations.list.map((v) => v.id),
    ])
    await user.click(await screen.findByRole('button', { name: 'Work in Variation 1' }))
    expect(session().tracks.map((t) => t.chain.treatments.length)).toEqual([1, 0])
    await user.clear(screen.getByRole('textbox', { name: 'Name of variation 2' }))
    await user.type(screen.getByRole('textbox', { name: 'Name of variation 2' }), 'Bright')
    expect(session().variations.list[1].name).toBe('Bright')
    await user.click(await screen.findByRole('button', { name: 'Remove Bright' }))
    expect(session().variations.list).toHaveLength(1)
    act(() => void store.dispatch(undo()))
    expect(session().variations.list.map((v) => v.name)).toEqual(['Variation 1', 'Bright'])
  })

  it('undoes within the variation that is worked in', async () => {
    const { user, session } = show(<CheckPage />, sessionOf(['Voice']))
    edit(bell('t0', 'b', -3))
    await user.click(keep())
    await user.click(keep())
    edit(bell('t0', 'c', -2))
    const bands = () =>
      session().tracks[0].chain.treatments.flatMap((t) =>
        t.kind === 'equaliser' ? t.params.bands.map((b) => b.id) : [],
      )
    expect(bands()).toEqual(['b', 'c'])
    act(() => void store.dispatch(undo()))
    act(() => void store.dispatch(undo()))
    expect(bands()).toEqual(['b'])
    expect(session().variations.list).toHaveLength(2)
    act(() => void store.dispatch(redo()))
    await user.click(await screen.findByRole('button', { name: 'Work in Variation 1' }))
    // What was done before it was kept can still be undone in it; the other one stays.
    act(() => void store.dispatch(undo()))
    act(() => void store.dispatch(undo()))
    expect(session().variations.list.length).toBeLessThan(3)
    act(() => void store.dispatch(redo()))
    act(() => void store.dispatch(redo()))
    expect(bands()).toEqual(['b'])
    await user.click(await screen.findByRole('button', { name: 'Work in Variation 2' }))
    expect(bands()).toEqual(['b', 'c'])
  })

  it('says when a variation was kept, and takes a note to it', async () => {
    const { user, session } = show(<CheckPage />, sessionOf(['Voice']))
    await user.click(keep())
    await user.click(keep())
    expect(screen.getAllByText(/^[12] Variation [12], kept on \w+ \d+ at \d\d:\d\d$/).length).toBe(
      2,
    )
    await user.type(screen.getByRole('textbox', { name: 'Note to variation 2' }), 'Less mud.')
    expect(session().variations.list.map((v) => v.note)).toEqual(['', 'Less mud.'])
  })

  it('hears a state by its numeral, and the session by the same again', async () => {
    const { user, desk, session } = show(<CheckPage />, sessionOf(['Voice']))
    await user.click(keep())
    const [{ id }] = session().variations.list
    expect([...stepKeys.value.keys()]).toEqual(['-', '1'])
    act(() => stepKeys.value.get('1')?.())
    expect(desk.hear).toHaveBeenLastCalledWith({ kind: 'variation', variation: id })
    act(() =>
      desk.heard.set({ rendition: { kind: 'variation', variation: id }, gainDb: 0 } as never),
    )
    expect(within(row('Listen to Variation 1')).getByText('Heard')).toBeTruthy()
    act(() => stepKeys.value.get('1')?.())
    expect(desk.stopHearing).toHaveBeenCalled()
  })

  it('says what differs, track by track, and takes one over', async () => {
    const { user, session } = show(<CheckPage />, sessionOf(['Voice', 'Guitar']))
    edit(bell('t0', 'b', -3), { kind: 'set-node', node: 't1', change: { faderDb: -6 } })
    expect(await screen.findByText(/What stands: bell 700 Hz −3\.0 dB, Q 1\.4/)).toBeTruthy()
    const guitar = screen.getByRole('heading', { name: 'Guitar' }).closest('article') as HTMLElement
    await user.click(within(guitar).getByRole('button', { name: 'Take over' }))
    expect(session().tracks.map((t) => t.faderDb)).toEqual([0, 0])
    expect(session().tracks[0].chain.treatments).toHaveLength(1)
    await waitFor(() => expect(screen.queryByRole('heading', { name: 'Guitar' })).toBeNull())
  })

  it('tells figures of each state, and what could not be measured', async () => {
    const heard = new Map([
      ['t0', { aloneSone: 4, hidden: 0.1, crowded: 0.2, clear: 0.7, share: 0.8 }],
    ])
    const figuresOf = vi.fn(async (of: Session) => {
      const isBare = of.tracks[0].chain.treatments.length === 0
      return { heard, mix: isBare ? mixOf(-20) : mixOf(-23.5, -33.5) }
    })
    const session = sessionOf(['Voice'], bell('t0', 'b', -3))
    show(<CheckPage />, session, {}, (desk) => {
      desk.analyser.figuresOf = figuresOf
    })
    const stands = row('Listen to What stands')
    expect(await within(stands).findByText('70 %')).toBeTruthy()
    const came = row('Listen to As it came')
    // The louder one is brought down to the other; in tone they are the same.
    expect(await within(came).findByText('−3.5')).toBeTruthy()
    expect(within(stands).getAllByText('0.0').length).toBeGreaterThan(0)
    figuresOf.mockRejectedValue(new Error('No worker is left.'))
    edit({ kind: 'set-node', node: 't0', change: { faderDb: -1 } })
    expect(await screen.findByText(/No worker is left/)).toBeTruthy()
  })
})

describe('a difference in tone', () => {
  it('is taken at equal loudness, of what is heard of either', () => {
    const [a, b] = [mixOf(-20), mixOf(-26, -36)]
    expect(rmsOf(toneBetween(a, b) ?? [1])).toBeCloseTo(0, 9)
    b.levels[10] = -33
    expect(toneBetween(a, b)?.[10]).toBeCloseTo(3, 9)
    a.levels[3] = -120
    b.levels[3] = -110
    expect(toneBetween(a, b)?.[3]).toBeNull()
    expect(toneBetween(a, mixOf(null))).toBeNull()
  })
})
