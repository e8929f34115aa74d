// @vitest-environment happy-dom
import { newBand } from '@sober-prism/core/filters'
import type { Tempo } from '@sober-prism/core/findings'
import type { Edit } from '@sober-prism/core/session'
import { newChainBand, newFollowBand, newTreatment } from '@sober-prism/core/treatments'
import type { Analysis, SessionFinding } from '@sober-prism/engine'
import { act, screen, within } from '@testing-library/react'
import { describe, expect, it, vi } from 'vitest'
import { EqualiserSheet } from '../sheet/equaliser-sheet'
import { selectSheet } from '../sheet/sheet-slice'
import { undo } from '../store/history'
import { interfaceActions } from '../store/interface-slice'
import { sessionActions } from '../store/session-slice'
import { store } from '../store/store'
import { sessionOf, show } from '../testing/render'
import { MakeRoomPane } from './make-room-pane'

const covering = [
  { targetId: 't0', maskerId: 't1', lostSone: 3, share: 0.3 },
  { targetId: 't2', maskerId: 't1', lostSone: 9, share: 0.4 },
  { targetId: 't1', maskerId: 't2', lostSone: 0.1, share: 0.01 },
  { targetId: 't1', maskerId: 't0', lostSone: 8, share: 0.5 },
]
const heardOf = (share: number) => ({
  share,
  aloneSone: 10,
  inMixSone: 10 * share,
  hidden: 0,
  crowded: 1 - share,
  clear: share,
  covered: [],
  understood: null,
})
const heard = new Map([
  ['t0', heardOf(0.6)],
  ['t1', heardOf(0.9)],
  ['t2', heardOf(0.5)],
])
const follow = newTreatment('follow', 'proposed', 'fit', {
  ...newTreatment('follow', 'x', 'fit').params,
  bands: [newFollowBand('b', { hz: 900, rangeDb: -3 })],
})
const proposal = {
  before: { keyHeard: 0.6, yieldingSone: 12 },
  options: [
    { kind: 'follow' as const, treatment: follow, after: { keyHeard: 0.7, yieldingSone: 11 } },
    {
      kind: 'duck' as const,
      treatment: newTreatment('duck', 'proposed', 'fit'),
      after: { keyHeard: 0.68, yieldingSone: 10.5 },
    },
    { kind: 'aside' as const, pan: -0.35, after: { keyHeard: 0.66, yieldingSone: 12.1 } },
  ],
}
const cut: Edit = {
  kind: 'add-band',
  node: 't1',
  stage: 'fit',
  treatment: null,
  newTreatment: 'proposed',
  chainBand: newChainBand('proposed', { ...newBand('bell', 1500), db: -3, q: 1 }),
}
const finding: SessionFinding = {
  key: 'masking t1 t2 84',
  kind: 'masking',
  tracks: ['t1', 't2'],
  hz: 1500,
  fromHz: 1000,
  toHz: 2000,
  severity: 1,
  evidence: {
    kind: 'masking',
    target: 't2',
    masker: 't1',
    lostSone: 2,
    lostShare: 0.4,
    where: 'middle',
    timeShare: 0.7,
    freed: ['t0'],
  },
  times: [],
  offered: true,
  moves: [cut],
  predicted: { measure: { of: 'heard', track: 't2' }, before: 0.5, after: 0.55 },
  state: 'x',
}
const shown = (more: Partial<Analysis> = {}) => {
  const made = show(<MakeRoomPane />, sessionOf(['Voice', 'Guitar', 'Keys']), {
    covering,
    heard,
    ...more,
  })
  Object.assign(made.desk.ask, {
    yielding: vi.fn(async () => proposal),
    lineUp: vi.fn(async () => ({
      lineUp: { delayFrames: -149.38, polarity: -1 as const, turnDeg: 12.34, gainDb: 3.5 },
      picture: {
        bands: [
          { hz: 63, gainDb: 4.25 },
          { hz: 8000, gainDb: null },
        ],
        stroke: {
          lead: Float32Array.of(0, 1, 0.5),
          before: Float32Array.of(0, 0, 1),
          after: Float32Array.of(0, 1, 0.4),
          at: 1,
        },
      },
    })),
  })
  act(() => void store.dispatch(interfaceActions.nodeChosen('t1')))
  return made
}
const treatmentsOf = (session: ReturnType<typeof sessionOf>, track: number) =>
  session.tracks[track].chain.treatments

describe('making room', () => {
  it('names who covers whom around the chosen track, what a lead loses first, without trifles and without leads that yield', () => {
    shown()
    const titles = screen.getAllByText(/ masks /, { selector: 'h3 *' }).map((h) => h.textContent)
    expect(titles).toEqual(['Guitar masks Keys', 'Guitar masks Voice'])
    act(() => void store.dispatch(interfaceActions.nodeChosen('t0')))
    expect(screen.getAllByRole('heading', { level: 3 })).toHaveLength(1)
  })

  it('offers the move of the finding once, and names whom else it frees', async () => {
    const { user, session } = shown({ findings: [finding] })
    const card = (text: string) => within(screen.getByText(text).closest('article') as HTMLElement)
    // What is worst is open; one line of the others opens them.
    card('Guitar masks Keys').getByText('Cut Guitar at 1.50 kHz by 3 dB, Q 1.')
    expect(screen.queryByText('The move for Keys also frees it.')).toBeNull()
    await user.click(screen.getByRole('button', { name: /Guitar masks Voice/ }))
    card('Guitar masks Voice').getByText('The move for Keys also frees it.')
    expect(card('Guitar masks Voice').queryByRole('button', { name: 'Apply' })).toBeNull()
    await user.click(screen.getByRole('button', { name: /Guitar masks Keys/ }))
    await user.click(card('Guitar masks Keys').getByRole('button', { name: 'Apply' }))
    const [made] = treatmentsOf(session(), 1)
    expect(made).toMatchObject({ kind: 'equaliser', stage: 'fit' })
  })

  it('asks no microphone to make room for another on the same source', () => {
    shown({ cancelled: new Map([['t1 t2', 0.1]]) })
    const titles = screen.getAllByText(/ masks /, { selector: 'h3 *' }).map((h) => h.textContent)
    expect(titles).toEqual(['Guitar masks Voice'])
  })

  it('tries ways on both, tells what each does, and takes one with the lead as its key', async () => {
    const { user, session, desk } = shown()
    await user.click(screen.getByRole('button', { name: /Guitar masks Voice/ }))
    const card = screen.getByText('Guitar masks Voice').closest('article') as HTMLElement
    await user.click(within(card).getByRole('button', { name: 'Test ways to make room' }))
    await screen.findByText('Dynamic EQ (recommended)')
    const { yielding } = desk.ask as unknown as Record<string, ReturnType<typeof vi.fn>>
    expect(yielding.mock.calls[0][0]).toEqual({ key: 't0', yielding: 't1' })
    screen.getByText(/Only these two playing: Voice 60 % → 70 % heard; Guitar −1\.0 of 12\.0 sone/)
    await user.click(screen.getAllByRole('button', { name: 'Apply' })[0])
    const [made] = treatmentsOf(session(), 1)
    expect(made).toMatchObject({
      kind: 'follow',
      stage: 'fit',
      key: { node: 't0', tap: 'after-fader', as: 'mono' },
      reason: 'Room for Voice: heard from 60 % to 70 % when tested',
    })
    expect(made.id).not.toBe('proposed')
  })

  it('puts the other aside of the middle, where that is what is taken', async () => {
    const { user, session } = shown()
    await user.click(screen.getByRole('button', { name: /Guitar masks Voice/ }))
    const card = screen.getByText('Guitar masks Voice').closest('article') as HTMLElement
    await user.click(within(card).getByRole('button', { name: 'Test ways to make room' }))
    const way = (await screen.findByText('Pan off centre')).closest('li') as HTMLElement
    expect(way.textContent).toMatch(/Panned 35 L\..*Voice 60 % → 66 % heard; Guitar 0\.1 of/)
    await user.click(within(way).getByRole('button', { name: 'Apply' }))
    expect(session().tracks[1]).toMatchObject({ pan: -0.35 })
    expect(treatmentsOf(session(), 1)).toEqual([])
  })

  it('lines a track up with another, and says so', async () => {
    const { user, session } = shown()
    await user.selectOptions(screen.getByLabelText('Align with'), 'C Keys')
    await user.click(screen.getByRole('button', { name: 'Search' }))
    await screen.findByText(
      /149\.38 samples \(3\.11 ms\) earlier, polarity inverted, phase rotated 12\.3°: .* gains 3\.5 dB/,
    )
    screen.getByRole('img', { name: /^A transient of Keys in ink; Guitar as it is, dotted/ })
    const octave = (name: string) => screen.getByText(name).nextElementSibling?.textContent
    expect([octave('63 Hz'), octave('8 kHz')]).toEqual(['4.3', '–'])
    await user.click(screen.getByRole('button', { name: 'Align Guitar' }))
    expect(treatmentsOf(session(), 1)[0]).toMatchObject({
      kind: 'align',
      params: { delayFrames: -149.38, polarity: -1, turnDeg: 12.3 },
    })
  })
})

describe('lining up in one band', () => {
  it('searches there alone, and is searched anew when the band is another', async () => {
    const { user, desk } = shown()
    const set = async (name: string, text: string) => {
      const field = screen.getByRole('textbox', { name })
      await user.clear(field)
      await user.type(field, `${text}{Enter}`)
    }
    await set('From, Hz', '60')
    await set('To, Hz', '250')
    await user.click(screen.getByRole('button', { name: 'Search' }))
    const { lineUp } = desk.ask as unknown as Record<string, ReturnType<typeof vi.fn>>
    expect(lineUp.mock.calls[0][0].range).toEqual({ fromHz: 60, toHz: 250 })
    await screen.findByText(/their sum gains 3\.5 dB/)
    await set('To, Hz', '400')
    expect(screen.queryByText(/the sum of the two gains/)).toBeNull()
    // What would leave no band is not taken.
    await set('From, Hz', '390')
    await user.click(screen.getByRole('button', { name: 'Search' }))
    expect(lineUp.mock.calls[1][0].range).toEqual({ fromHz: 60, toHz: 400 })
  })
})

describe('lining several tracks up', () => {
  it('is one search with one lead, and one step of undo', async () => {
    const { user, session, desk } = shown()
    act(() => void store.dispatch(interfaceActions.nodeChosenToo('t2')))
    await user.selectOptions(screen.getByLabelText('Align with'), 'A Voice')
    await user.click(screen.getByRole('button', { name: 'Search' }))
    await user.click(await screen.findByRole('button', { name: 'Align all 2' }))
    expect(Object.assign(desk.ask).lineUp.mock.calls.map(([args]: unknown[]) => args)).toEqual([
      expect.objectContaining({ lead: 't0', other: 't1' }),
      expect.objectContaining({ lead: 't0', other: 't2' }),
    ])
    for (const track of [1, 2]) {
      expect(treatmentsOf(session(), track)[0]).toMatchObject({ kind: 'align', stage: 'fit' })
    }
    act(() => void store.dispatch(undo()))
    for (const track of [1, 2]) expect(treatmentsOf(session(), track)).toEqual([])
  })
})

describe('a round by hand', () => {
  it('takes what loses most first, lifts the one in work alone, and tells what changed', async () => {
    const { user, session, state } = shown()
    const lifted = () =>
      session()
        .tracks.filter((t) => t.lift)
        .map((t) => t.id)
    await user.click(screen.getByRole('button', { name: 'Start round' }))
    screen.getByText('1 of 3: Keys')
    expect(lifted()).toEqual(['t2'])
    expect(store.getState().interface.chosen).toBe('t2')
    const onSheet = () => screen.getByRole('button', { pressed: true, name: /Keys|Guitar/ })
    expect(onSheet().textContent).toBe('Keys')
    await user.keyboard('{Alt>}o{/Alt}')
    expect(onSheet().textContent).toBe('Guitar, 40 %')
    expect(store.getState().interface.chosen).toBe('t1')
    expect(lifted()).toEqual(['t2'])
    await user.keyboard('{Alt>}o{/Alt}')
    expect(store.getState().interface.chosen).toBe('t2')
    expect(selectSheet(store.getState()).ghosts).toEqual(['t2', 't1'])
    await user.keyboard('{Alt>}n{/Alt}')
    screen.getByText('2 of 3: Voice')
    expect(lifted()).toEqual(['t0'])
    act(() => state.set({ ...state.value, heard: new Map([...heard, ['t2', heardOf(0.62)]]) }))
    await user.click(screen.getByRole('button', { name: 'Next track' }))
    await user.click(screen.getByRole('button', { name: 'Finish round' }))
    screen.getByText('Keys: heard 50 % → 62 %')
    expect(lifted()).toEqual([])
    await user.click(screen.getByRole('button', { name: 'Close' }))
    expect(selectSheet(store.getState()).ghosts).toEqual([])
    screen.getByRole('button', { name: 'Start round' })
  })
})

describe('the editors of what follows', () => {
  const sheet = (kind: 'follow' | 'duck') => {
    const treatment = kind === 'follow' ? { ...follow, id: 'f' } : newTreatment('duck', 'f', 'fit')
    const made = show(
      <EqualiserSheet />,
      sessionOf(['Voice', 'Guitar'], {
        kind: 'add-treatment',
        node: 't0',
        treatment,
        before: null,
      }),
    )
    act(() => void store.dispatch(interfaceActions.treatmentChosen({ treatmentId: 'f' })))
    return made
  }

  it('choose the key and how it is taken, or none', async () => {
    const { user, session } = sheet('duck')
    await user.selectOptions(screen.getByLabelText('Key'), 'B Guitar')
    expect(treatmentsOf(session(), 0)[0].key).toEqual({
      node: 't1',
      tap: 'after-fader',
      as: 'mono',
    })
    await user.selectOptions(screen.getByLabelText('Key as'), 'Mid/side')
    expect(treatmentsOf(session(), 0)[0].key?.as).toBe('mid-side')
    await user.selectOptions(screen.getByLabelText('Key'), 'No key')
    expect(treatmentsOf(session(), 0)[0].key).toBeNull()
  })

  it('set every value of a band, by figures and as a note’s length', async () => {
    const { user, session } = sheet('follow')
    const type = async (name: string, text: string) => {
      const field = screen.getByRole('textbox', { name })
      await user.clear(field)
      await user.type(field, `${text}{Enter}`)
    }
    await type('Frequency, Hz', '1.2k')
    await type('Range, dB', '-7.5')
    await user.selectOptions(screen.getByLabelText('Detector'), 'Key, other range')
    await type('To, Hz', '5k')
    await user.selectOptions(screen.getByLabelText('Ratio'), '3 : 1')
    await user.click(screen.getByRole('button', { name: 'As a note…' }))
    await user.click(await screen.findByRole('button', { name: '1/8: 250 ms' }))
    await user.click(screen.getByRole('button', { name: 'As a note…' }))
    await user.selectOptions(screen.getByLabelText('Time to set'), 'attackMs')
    await user.click(await screen.findByRole('button', { name: '1/32: 63 ms' }))
    const [made] = treatmentsOf(session(), 0)
    expect(made.kind === 'follow' && made.params.bands[0]).toMatchObject({
      hz: 1200,
      rangeDb: -7.5,
      ratio: 3,
      releaseMs: 250,
      attackMs: 63,
      listens: { to: 'key-range', fromHz: 300, toHz: 5000 },
    })
    await user.click(screen.getByRole('button', { name: 'Band' }))
    expect(screen.getAllByRole('button', { name: /^Band [ab]$/ })).toHaveLength(2)
  })

  it('let the key be heard alone, between the frequencies that the band hears', async () => {
    const { user, desk } = sheet('follow')
    await user.selectOptions(screen.getByLabelText('Key'), 'B Guitar')
    const hear = () => screen.queryByRole('button', { name: 'Listen to key' })
    const pressed = async () => {
      await user.click(hear() as HTMLElement)
      return (desk.hear.mock.calls as unknown[][]).at(-1)?.[0]
    }
    const own = (await pressed()) as { range: { fromHz: number; toHz: number } }
    expect(own).toMatchObject({ kind: 'range', node: 't1' })
    // As far below as above, on the ruler.
    expect(own.range.toHz * own.range.fromHz).toBeCloseTo(900 ** 2, -1)
    await user.selectOptions(screen.getByLabelText('Detector'), 'Key, other range')
    expect(await pressed()).toMatchObject({ range: { fromHz: 300, toHz: 3400 } })
    await user.selectOptions(screen.getByLabelText('Type'), 'Low shelf')
    await user.selectOptions(screen.getByLabelText('Detector'), 'Key, this band')
    expect(await pressed()).toMatchObject({ range: { fromHz: 20, toHz: 900 } })
    await user.selectOptions(screen.getByLabelText('Detector'), 'Own signal')
    expect(hear()).toBeNull()
  })

  it('take the tempo from the passage, as an estimate', async () => {
    const { user, desk, session } = sheet('follow')
    const tempo = vi.fn(async (): Promise<Tempo | null> => null)
    Object.assign(desk.ask, { tempo })
    await user.click(screen.getByRole('button', { name: 'As a note…' }))
    const ask = () => user.click(screen.getByRole('button', { name: 'Estimate from the passage' }))
    await ask()
    await screen.findByText('No steady tempo in the passage.')
    tempo.mockResolvedValue({ beatsPerMinute: 96.04, clarity: 0.5 })
    await ask()
    await screen.findByText('Estimate: 96.0 BPM, or half or double.')
    await user.click(screen.getByRole('button', { name: '1/4: 625 ms' }))
    const [made] = treatmentsOf(session(), 0)
    expect(made.kind === 'follow' && made.params.bands[0].releaseMs).toBe(625)
  })

  it('begin with what suits the key’s role', async () => {
    const { user, session } = sheet('duck')
    await user.selectOptions(screen.getByLabelText('Key'), 'B Guitar')
    act(() => {
      const change = { role: 'bass' as const }
      store.dispatch(sessionActions.edited([{ kind: 'set-node', node: 't1', change }]))
    })
    const [, first] = within(screen.getByLabelText('Start from')).getAllByRole('option')
    expect(first.textContent).toBe('A bass, as the key is')
    await user.selectOptions(screen.getByLabelText('Start from'), 'Speech')
    expect(treatmentsOf(session(), 0)[0].params).toMatchObject({
      fromHz: 120,
      toHz: 9000,
      releaseMs: 250,
    })
  })

  it('set law, depth and span of a bank', async () => {
    const { user, session } = sheet('duck')
    await user.selectOptions(screen.getByLabelText('Depth follows'), 'Key level')
    await user.selectOptions(screen.getByLabelText('Resolution'), '0.5 ERB bands')
    const from = screen.getByRole('textbox', { name: 'From, Hz' })
    await user.clear(from)
    await user.type(from, '250{Enter}')
    const [made] = treatmentsOf(session(), 0)
    expect(made.params).toMatchObject({ law: 'even', fineness: 5, fromHz: 250 })
  })
})
