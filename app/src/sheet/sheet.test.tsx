// @vitest-environment happy-dom
import { newBand } from '@sober-prism/core/filters'
import type { Edit } from '@sober-prism/core/session'
import { newChainBand, newTreatment } from '@sober-prism/core/treatments'
import { act, screen, within } from '@testing-library/react'
import { describe, expect, it } from 'vitest'
import { interfaceActions } from '../store/interface-slice'
import { store } from '../store/store'
import { sessionOf, show } from '../testing/render'
import { EqualiserSheet } from './equaliser-sheet'
import { selectSheet } from './sheet-slice'

const bell = (id: string, hz: number): Edit => ({
  kind: 'add-band',
  node: 't0',
  stage: 'fit',
  treatment: null,
  newTreatment: 'e',
  chainBand: newChainBand(id, { ...newBand('bell', hz), db: -3, q: 1 }),
})
const bandsOf = (session: ReturnType<typeof sessionOf>) =>
  session.tracks[0].chain.treatments.flatMap((t) => (t.kind === 'equaliser' ? t.params.bands : []))

describe('the sheet', () => {
  it('says how a band comes on it, and takes one from a button or the list', async () => {
    const { user, session } = show(<EqualiserSheet />, sessionOf(['Voice']))
    screen.getByText(/No bands in Fit yet/)
    await user.click(screen.getByRole('button', { name: 'Bell' }))
    await user.click(screen.getByRole('button', { name: 'Other band' }))
    await user.click(screen.getByRole('menuitem', { name: 'Low cut' }))
    expect(bandsOf(session()).map((m) => [m.band.type, m.band.hz])).toEqual([
      ['bell', 1000],
      ['low-cut', 60],
    ])
  })

  it('moves a flag by keyboard, announces it, and removes it', async () => {
    const { user, session } = show(<EqualiserSheet />, sessionOf(['Voice'], bell('a', 1000)))
    const flag = screen.getByRole('slider', { name: 'Band a' })
    expect(flag.getAttribute('aria-valuetext')).toBe('Bell, 1.00 kHz, −3.0 dB, Q 1.00')
    act(() => flag.focus())
    await user.keyboard('{ArrowDown}{Shift>}{ArrowDown}{/Shift}{ArrowRight}{PageUp}')
    const [{ band }] = bandsOf(session())
    expect([band.db, band.hz, band.q]).toEqual([-3.55, 1059, 1.125])
    await user.keyboard('{Delete}')
    expect(bandsOf(session())).toEqual([])
  })

  it('edits every value of the chosen band', async () => {
    const { user, session } = show(<EqualiserSheet />, sessionOf(['Voice'], bell('a', 1000)))
    act(() => void store.dispatch(interfaceActions.bandChosen('a')))
    const frequency = screen.getByRole('textbox', { name: 'Frequency, Hz' })
    await user.clear(frequency)
    await user.type(frequency, '2.2k{Enter}')
    await user.selectOptions(screen.getByRole('combobox', { name: 'Type' }), 'High shelf')
    await user.selectOptions(screen.getByRole('combobox', { name: 'Acts on' }), 'Side')
    await user.type(screen.getByRole('textbox', { name: 'Reason' }), 'too bright')
    await user.click(screen.getByRole('checkbox', { name: 'On' }))
    const [{ band, on, reason }] = bandsOf(session())
    expect([band.hz, band.type, band.channel, on, reason]).toEqual([
      2200,
      'high-shelf',
      'side',
      false,
      'too bright',
    ])
  })

  it('adds, switches off and removes treatments, each with its editor', async () => {
    const align: Edit = {
      kind: 'add-treatment',
      node: 't0',
      treatment: newTreatment('align', 'l', 'fit'),
      before: null,
    }
    const { user, session } = show(<EqualiserSheet />, sessionOf(['Voice'], align))
    act(() => void store.dispatch(interfaceActions.treatmentChosen({ treatmentId: 'l' })))
    await user.click(screen.getByRole('checkbox', { name: 'Invert polarity' }))
    await user.click(screen.getByRole('checkbox', { name: 'Align on' }))
    const [made] = session().tracks[0].chain.treatments
    expect([made.on, made.kind === 'align' && made.params.polarity]).toEqual([false, -1])
    await user.click(screen.getByRole('button', { name: 'Add a treatment to Shape' }))
    await user.click(screen.getByRole('menuitem', { name: 'Mono low end' }))
    await user.click(screen.getByRole('button', { name: 'Remove mono low end' }))
    expect(session().tracks[0].chain.treatments.map((t) => t.kind)).toEqual(['align'])
  })

  it('is drawn to another scale, with other tracks behind it', async () => {
    const { user } = show(<EqualiserSheet />, sessionOf(['Voice', 'Guitar']))
    await user.selectOptions(
      screen.getByRole('combobox', { name: 'Scale of the sheet' }),
      'to −120 dB',
    )
    await user.click(screen.getByRole('button', { name: 'Overlay' }))
    await user.click(screen.getByRole('menuitemcheckbox', { name: /Guitar/, checked: false }))
    const view = selectSheet(store.getState())
    expect([view.span, view.ghosts]).toEqual(['deep', ['t1']])
  })

  it('shows live spectra as they are set, and asks for them of the chosen chain only', async () => {
    const { user, desk, unmount } = show(<EqualiserSheet />, sessionOf(['Voice', 'Guitar']))
    expect(desk.player.probe).toHaveBeenLastCalledWith('t0', expect.anything())
    await user.click(screen.getByRole('button', { name: /Live spectrum/ }))
    const panel = within(screen.getByRole('dialog', { name: 'Live spectrum' }))
    await user.selectOptions(panel.getByRole('combobox', { name: 'Resolution' }), 'fine')
    await user.selectOptions(panel.getByRole('combobox', { name: 'Tilt' }), '+4.5 dB/oct')
    await user.click(panel.getByRole('checkbox', { name: 'Freeze' }))
    expect(selectSheet(store.getState())).toMatchObject({ tilt: 4.5, frozen: true })
    expect(desk.player.probe).toHaveBeenLastCalledWith(
      't0',
      expect.objectContaining({ resolution: 'fine' }),
    )
    unmount()
    expect(desk.player.probe).toHaveBeenLastCalledWith(null, expect.anything())
  })
})

describe('a drawn curve', () => {
  const drawn: Edit = {
    kind: 'add-treatment',
    node: 't0',
    treatment: newTreatment('drawn-curve', 'd', 'clean'),
    before: null,
  }
  const pointsOf = (session: ReturnType<typeof sessionOf>) =>
    session.tracks[0].chain.treatments.flatMap((t) =>
      t.kind === 'drawn-curve' ? t.params.points : [],
    )
  const chosen = () =>
    act(
      () =>
        void store.dispatch(
          interfaceActions.treatmentChosen({ node: 't0', treatmentId: 'd', stage: 'clean' }),
        ),
    )

  it('has its points on the sheet, moved and removed by keys', async () => {
    const { user, session } = show(<EqualiserSheet />, sessionOf(['Voice'], drawn))
    chosen()
    const point = screen.getByRole('slider', { name: 'Point 2' })
    expect(point.getAttribute('aria-valuetext')).toBe('1.00 kHz, 0.0 dB')
    act(() => point.focus())
    await user.keyboard('{ArrowDown}{PageDown}{ArrowRight}')
    expect(pointsOf(session())[1]).toEqual({ hz: 1059, db: -13 })
    await user.keyboard('{Delete}')
    expect(pointsOf(session()).map((p) => p.hz)).toEqual([100, 8000])
  })

  it('has them in a table, begins with a known curve, and tells what the filter does', async () => {
    const { user, session } = show(<EqualiserSheet />, sessionOf(['Voice'], drawn))
    chosen()
    screen.getByText(/Exactly as drawn; latency 42\.6 ms/)
    await user.click(screen.getByRole('button', { name: '3 points …' }))
    const gain = screen.getByRole('textbox', { name: 'Gain of point 1, dB' })
    await user.clear(gain)
    await user.type(gain, '-4.5{Enter}')
    expect(pointsOf(session())[0]).toEqual({ hz: 100, db: -4.5 })
    await user.keyboard('{Escape}')
    await user.selectOptions(
      await screen.findByRole('combobox', { name: 'Start from' }),
      'A voice line, 300 to 3400 Hz',
    )
    expect(pointsOf(session()).map((p) => p.db)).toEqual([-60, 0, 0, -60])
    await screen.findByText(/Max deviation \d+\.\d dB/)
  })

  it('chooses the length that holds it', async () => {
    const { user, session } = show(<EqualiserSheet />, sessionOf(['Voice'], drawn))
    chosen()
    await user.click(screen.getByRole('button', { name: 'Fit to ±1 dB' }))
    const [treatment] = session().tracks[0].chain.treatments
    expect(treatment).toMatchObject({ params: { taps: 64 } })
  })
})
