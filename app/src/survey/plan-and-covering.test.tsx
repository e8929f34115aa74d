// @vitest-environment happy-dom
import { newBand } from '@sober-prism/core/filters'
import { type Plan, USUAL_GROUPS } from '@sober-prism/core/findings'
import type { Edit } from '@sober-prism/core/session'
import { newChainBand, newFollowBand, newTreatment } from '@sober-prism/core/treatments'
import type { Analysis, SessionFinding } from '@sober-prism/engine'
import { act, fireEvent, screen, waitFor, within } from '@testing-library/react'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { store } from '../store/store'
import { sessionOf, show } from '../testing/render'
import { CoveringTable } from './covering-table'
import { FindingsPane } from './findings-pane'
import { PlanList } from './plan-list'
import { surveyActions } from './survey-slice'

vi.mock('./plan-curve', () => ({ default: () => <div role="img" aria-label="curve" /> }))

const heardAs = (share: number) => new Map([['t0', share]])
const bandOn = (hz: number): Edit => ({
  kind: 'add-band',
  node: 't1',
  stage: 'fit',
  treatment: null,
  newTreatment: 'proposed',
  chainBand: newChainBand('proposed', { ...newBand('bell', hz), db: -4, q: 1 }),
})
const raised: Edit = { kind: 'change-output-gain', node: 't1', db: 0.4 }
const step = (hz: number, share: number, change: object = {}): Plan['steps'][number] => ({
  group: 'room',
  findingKey: `masking ${hz}`,
  moves: [bandOn(hz)],
  nodes: ['t1'],
  gainSone: 1,
  costSone: 0.25,
  heard: heardAs(share),
  levelsLu: [-0.8],
  ...change,
})
const plan: Plan = {
  groups: USUAL_GROUPS,
  isCutShort: false,
  fadersDb: 2.5,
  heardBefore: heardAs(0.5),
  steps: [step(800, 0.6), step(2500, 0.65, { moves: [bandOn(2500), raised] }), step(5000, 0.67)],
}
const names = ['Voice', 'Guitar', 'Keys']

describe('the plan', () => {
  beforeEach(() => {
    store.dispatch(surveyActions.tabChosen('Findings'))
    store.dispatch(surveyActions.planCounted(3))
  })

  it('is asked for once figures are there, and says why where it cannot be made', async () => {
    const waiting = show(<PlanList />, sessionOf(names), { fresh: false })
    const button = () => screen.getByRole<HTMLButtonElement>('button', { name: 'Plan moves' })
    expect(button().disabled).toBe(true)
    waiting.unmount()
    const { user, desk } = show(<PlanList />, sessionOf(names), { fresh: true })
    await user.click(button())
    expect(desk.analyser.plan).toHaveBeenCalledExactlyOnceWith(USUAL_GROUPS)
    desk.analyser.plan.mockRejectedValueOnce(new Error('A worker stopped.'))
    await user.click(button())
    await waitFor(() =>
      expect(store.getState().interface.notice?.text).toContain('A worker stopped.'),
    )
  })

  it('says so where no move is worth making', () => {
    show(<PlanList />, sessionOf(names), { plan: { ...plan, steps: [] } })
    const apply = screen.getByRole<HTMLButtonElement>('button', { name: 'Nothing to apply' })
    expect(apply.disabled).toBe(true)
    // Boosts of leads can still be asked for.
    screen.getByRole('checkbox', { name: 'Boosts of leads' })
  })

  it('makes a move that follows a lead as a treatment with that lead as its key', async () => {
    const follow = newTreatment('follow', 'proposed', 'fit')
    const bands = [newFollowBand('proposed', { hz: 800, q: 1, rangeDb: -4 })]
    const treatment = {
      ...follow,
      key: { node: 't0', tap: 'after-fader', as: 'mono' } as const,
      params: { ...follow.params, bands },
    }
    const made: Edit = { kind: 'add-treatment', node: 't1', treatment, before: null }
    const steps = [step(800, 0.6, { moves: [made] })]
    const { user, session } = show(<PlanList />, sessionOf(names), { plan: { ...plan, steps } })
    act(() => void store.dispatch(surveyActions.planCounted(1)))
    expect(screen.getByRole('listitem').textContent).toContain(
      'Cut Guitar at 800 Hz by up to 4 dB, Q 1, while its key sounds (Voice).',
    )
    await user.click(screen.getByRole('button', { name: 'Apply the first move' }))
    const [treated] = session().tracks[1].chain.treatments
    expect(treated).toMatchObject({
      kind: 'follow',
      key: { node: 't0', tap: 'after-fader', as: 'mono' },
      params: { bands: [{ hz: 800, q: 1, rangeDb: -4 }] },
      evidence: { before: 0.5, predicted: 0.6 },
    })
    expect(treated.id).not.toBe('proposed')
  })

  it('lists its moves with what each wins and costs, and why it ends', () => {
    show(<PlanList />, sessionOf(names), { plan })
    const items = screen.getAllByRole('listitem')
    expect(items).toHaveLength(3)
    expect(items[0].textContent).toContain('Cut Guitar at 800 Hz by 4 dB, Q 1')
    expect(items[0].textContent).toContain('heard 60.0 %')
    expect(items[0].textContent).toContain('0.25 sone')
    expect(items[1].textContent).toContain('Raise Guitar by 0.4 dB')
    screen.getByText(/the other tracks would need −2\.5 dB/)
  })

  it('stands under its groups, of which each is left out or asked for by a press', async () => {
    const hum = step(50, 0.5, { group: 'noise' })
    const steps = [hum, ...plan.steps]
    const { user, desk } = show(<PlanList />, sessionOf(names), { plan: { ...plan, steps } })
    const noise = screen.getByRole('region', { name: 'Hum and rumble' })
    expect(within(noise).getAllByRole('listitem')).toHaveLength(1)
    expect(
      within(screen.getByRole('region', { name: 'Room for the leads' })).getAllByRole('listitem'),
    ).toHaveLength(3)
    await user.click(within(noise).getByRole('checkbox'))
    expect(desk.analyser.plan).toHaveBeenLastCalledWith(USUAL_GROUPS.filter((g) => g !== 'noise'))
    const boosts = screen.getByRole<HTMLInputElement>('checkbox', { name: 'Boosts of leads' })
    expect(boosts.checked).toBe(false)
    await user.click(boosts)
    expect(desk.analyser.plan).toHaveBeenLastCalledWith([...USUAL_GROUPS, 'boosts'])
  })

  it('is made as far as one wants, as one step', async () => {
    const { user, session } = show(<PlanList />, sessionOf(names), { plan })
    const slider = screen.getByRole('slider', { name: 'Moves to apply' })
    fireEvent.change(slider, { target: { value: 2 } })
    expect(slider.getAttribute('aria-valuetext')).toBe('2 moves, Voice heard 65.0 %')
    const out = screen.getAllByRole('listitem').map((li) => li.dataset.out)
    expect(out).toEqual(['false', 'false', 'true'])
    await user.click(screen.getByRole('button', { name: 'Apply the first 2' }))
    const { chain } = session().tracks[1]
    const chainBands = chain.treatments.flatMap((t) =>
      t.kind === 'equaliser' ? t.params.bands : [],
    )
    expect(chainBands.map((m) => m.band.hz)).toEqual([800, 2500])
    expect(chainBands[1].evidence).toMatchObject({
      findingKey: 'plan',
      before: 0.6,
      predicted: 0.65,
    })
    expect(chain.output.gainDb).toBeCloseTo(0.4)
    expect(store.getState().session.past).toHaveLength(1)
    expect(store.getState().interface.notice?.undo).toBe('edit')
  })
})

describe('who covers whom', () => {
  const covering = [
    { targetId: 't0', maskerId: 't1', share: 0.25, lostSone: 2 },
    { targetId: 't1', maskerId: 't0', share: 0.4, lostSone: 1 },
  ] as unknown as Analysis['covering']
  const cell = (name: string) => screen.getByRole('cell', { name })
  const heard = new Map(
    ['t0', 't1', 't2'].map((id) => [id, { share: 0.5 }]),
  ) as unknown as Analysis['heard']
  const shown = () => show(<CoveringTable />, sessionOf(names), { covering, heard })

  it('has a figure for each pair, a row losing to a column', () => {
    shown()
    expect(cell('Voice: 25.0 % masked by Guitar').textContent).toBe('25')
    expect(cell('Guitar: 40.0 % masked by Voice').textContent).toBe('40')
    expect(cell('Keys: 0.0 % masked by Voice').textContent).toBe('0')
  })

  it('is walked by arrow keys from the one cell that the tab key reaches', () => {
    shown()
    const reached = () => screen.getAllByRole('cell').filter((c) => c.tabIndex === 0)
    expect(reached().map((c) => c.getAttribute('aria-label'))).toEqual([
      'Voice: 25.0 % masked by Guitar',
    ])
    act(() => reached()[0].focus())
    screen.getByText('Voice: 25.0 % masked by Guitar.')
    const press = (key: string) => fireEvent.keyDown(document.activeElement as Element, { key })
    press('ArrowDown')
    expect(document.activeElement?.getAttribute('aria-label')).toBe('Guitar')
    press('ArrowLeft')
    screen.getByText('Guitar: 40.0 % masked by Voice.')
    press('ArrowUp')
    press('ArrowUp')
    expect(document.activeElement?.getAttribute('aria-label')).toBe('Voice')
  })

  it('tells of voices how well their words are understood', () => {
    const [id, first] = [...heard][0]
    const understood = new Map([...heard, [id, { ...first, understood: 0.38 }]])
    show(<CoveringTable />, sessionOf(names), { covering, heard: understood } as never)
    expect(screen.getAllByText('words').length).toBe(1)
    screen.getByText('0.38')
  })

  it('says of a mono survey that it is one, and chooses a track by its letter', async () => {
    const { user } = show(<CoveringTable />, sessionOf(names), {
      covering,
      heard,
      mono: true,
    })
    screen.getByText(/in percent, in mono/)
    expect(screen.queryByText('words')).toBeNull()
    await user.click(screen.getByRole('button', { name: 'Keys' }))
    expect(store.getState().interface.chosen).toBe('t2')
  })
})

describe('a finding that is amended', () => {
  const cut = (hz: number): Edit => ({
    kind: 'add-band',
    node: 't1',
    stage: 'fit',
    treatment: null,
    newTreatment: `n${hz}`,
    chainBand: newChainBand(`m${hz}`, { ...newBand('bell', hz), db: -3.5, q: 1 }),
  })
  const align: Edit = {
    kind: 'add-treatment',
    node: 't2',
    treatment: newTreatment('align', 'a', 'fit'),
    before: null,
  }
  const finding = (moves: Edit[]): SessionFinding => ({
    key: 'masking 1500',
    kind: 'masking',
    tracks: ['t1', 't0'],
    hz: 1500,
    fromHz: 750,
    toHz: 3000,
    severity: 2,
    evidence: {
      kind: 'masking',
      target: 't0',
      masker: 't1',
      lostSone: 2,
      lostShare: 0.4,
      where: 'middle',
      timeShare: 0.7,
      freed: [],
    },
    times: [],
    offered: true,
    moves,
    predicted: { measure: { of: 'heard', track: 't0' }, before: 0.5, after: 0.6 },
    state: 'x',
  })
  const shown = (moves: Edit[]) =>
    show(<FindingsPane />, sessionOf(names), { fresh: true, findings: [finding(moves)] })

  it('is measured again with the values of one’s own, which are then what is applied', async () => {
    store.dispatch(surveyActions.tabChosen('Findings'))
    const { user, desk, session } = shown([cut(1500)])
    const predicted = { measure: { of: 'heard', track: 't0' }, before: 0.5, after: 0.57 }
    desk.analyser.predict.mockResolvedValue(predicted as never)
    await user.click(screen.getByRole('button', { name: 'Adjust' }))
    const gain = screen.getByRole('textbox', { name: /^Gain/ })
    await user.clear(gain)
    await user.type(gain, '-2{Enter}')
    await waitFor(() => expect(desk.analyser.predict).toHaveBeenCalled())
    await screen.findByText(/57\.0 %/)
    await user.click(screen.getByRole('button', { name: 'Apply' }))
    const [equaliser] = session().tracks[1].chain.treatments
    if (equaliser.kind !== 'equaliser') throw new Error('There is no equaliser.')
    expect(equaliser.params.bands[0].band.db).toBe(-2)
  })

  it('is as proposed again by one press', async () => {
    const { user } = shown([cut(1500)])
    await user.click(screen.getByRole('button', { name: 'Adjust' }))
    await user.click(screen.getByRole('button', { name: 'Reset' }))
    expect(screen.queryByRole('textbox', { name: /^Gain/ })).toBeNull()
    expect(screen.getByRole('article').textContent).toContain('60.0 %')
  })

  it('of several moves leaves those out that are not wanted', async () => {
    const { user, session, desk } = shown([cut(1500), align])
    desk.analyser.predict.mockResolvedValue(null)
    await user.click(screen.getByRole('button', { name: 'Adjust' }))
    const [first] = screen.getAllByRole('group').filter((g) => g.tagName === 'FIELDSET')
    await user.click(within(first).getByRole('checkbox', { name: 'Guitar' }))
    expect(first.dataset.out).toBe('true')
    await user.click(screen.getByRole('button', { name: 'Apply' }))
    expect(session().tracks[1].chain.treatments).toHaveLength(0)
    expect(session().tracks[2].chain.treatments.map((t) => t.kind)).toEqual(['align'])
  })
})
