// @vitest-environment happy-dom

import { chainOf } from '@sober-prism/core/session'
import { newTreatment, type Treatment } from '@sober-prism/core/treatments'
import { act, fireEvent, screen, within } from '@testing-library/react'
import type { UserEvent } from '@testing-library/user-event'
import { describe, expect, it, vi } from 'vitest'
import { undo } from '../../store/history'
import { interfaceActions } from '../../store/interface-slice'
import { sessionActions } from '../../store/session-slice'
import { store } from '../../store/store'
import { sessionOf, show } from '../../testing/render'
import { EqualiserSheet } from '../equaliser-sheet'

type Of<K extends Treatment['kind']> = Extract<Treatment, { readonly kind: K }>

/** The sheet of a guitar's chain with one treatment, chosen; a voice, a bass and keys stand beside it. */
function shown<K extends Treatment['kind']>(kind: K, change: Partial<Of<K>> = {}) {
  const treatment = { ...newTreatment(kind, 'x', 'fit'), ...change } as Treatment
  const role = (node: string, name: 'voice' | 'bass') =>
    ({ kind: 'set-node', node, change: { role: name } }) as const
  const session = sessionOf(
    ['Guitar', 'Voice', 'Bass', 'Keys'],
    role('t1', 'voice'),
    role('t2', 'bass'),
    { kind: 'add-treatment', node: 't0', treatment, before: null },
  )
  const all = show(<EqualiserSheet />, session)
  act(() => void store.dispatch(interfaceActions.treatmentChosen({ treatmentId: 'x' })))
  const made = () => chainOf(all.session(), 't0')?.treatments[0] as Of<K>
  const params = () => made().params as Of<K>['params']
  return { ...all, made, params }
}

/** Fields are named by what they hold, and its unit. */
const field = (name: string) =>
  screen.getByRole<HTMLInputElement>('textbox', { name: new RegExp(`^${name}(,|$)`) })
async function type(user: UserEvent, name: string, text: string) {
  await user.clear(field(name))
  await user.type(field(name), `${text}{Enter}`)
}
const choose = (user: UserEvent, label: string, option: string) =>
  user.selectOptions(screen.getByLabelText(label), option)

describe('bands that follow', () => {
  it('are added where the plumb line stands, chosen, changed and taken away', async () => {
    const { user, params } = shown('follow')
    await user.click(screen.getByRole('button', { name: 'Band' }))
    await user.click(screen.getByRole('button', { name: 'Band' }))
    expect(params().bands).toHaveLength(2)
    await type(user, 'Frequency', '2.5k')
    await type(user, 'Range', '-7.5')
    await type(user, 'Q', '1.6')
    const [first, second] = params().bands
    expect(second).toMatchObject({ hz: 2500, rangeDb: -7.5, q: 1.6 })
    expect(first).toMatchObject({ rangeDb: -4 })
    await user.click(screen.getByRole('button', { name: 'Band a' }))
    await user.click(screen.getByRole('button', { name: 'Remove band' }))
    expect(params().bands.map((b) => b.hz)).toEqual([2500])
  })

  it('go no further than their limits, and say nothing of a width where a region has none', async () => {
    const { user, params } = shown('follow')
    await user.click(screen.getByRole('button', { name: 'Band' }))
    await type(user, 'Range', '-60')
    expect(params().bands[0].rangeDb).toBe(-4)
    await type(user, 'Range', '-24')
    expect(params().bands[0].rangeDb).toBe(-24)
    await choose(user, 'Type', 'All below')
    expect(params().bands[0].type).toBe('low-cut')
    expect(screen.queryByRole('textbox', { name: 'Q' })).toBeNull()
    await choose(user, 'Type', 'High shelf')
    expect(field('Q')).toBeTruthy()
  })

  it('listen to the key, to a range of it, or to themselves', async () => {
    const { user, params } = shown('follow')
    await user.click(screen.getByRole('button', { name: 'Band' }))
    await choose(user, 'Detector', 'Key, other range')
    await type(user, 'To', '5k')
    // A range does not end before it begins.
    await type(user, 'From', '9k')
    expect(params().bands[0].listens).toEqual({ to: 'key-range', fromHz: 300, toHz: 5000 })
    await choose(user, 'Detector', 'Own signal')
    expect(params().bands[0].listens).toEqual({ to: 'itself' })
    await choose(user, 'Threshold reference', 'Absolute')
    expect(params().bands[0].threshold).toEqual({ against: 'absolute', db: -40 })
    await choose(user, 'Ratio', '3 : 1')
    expect(params().bands[0].ratio).toBe(3)
    await choose(user, 'Ratio', 'Full range at once')
    expect(params().bands[0].ratio).toBeNull()
  })

  it('begin as suits the key’s role, whose name stands first', async () => {
    const { user, params } = shown('follow', {
      key: { node: 't1', tap: 'after-fader', as: 'mono' },
    })
    const points = within(screen.getByLabelText('Start from'))
      .getAllByRole('option')
      .map((o) => o.textContent)
    expect(points[1]).toBe('A singing voice, as the key is')
    await choose(user, 'Start from', 'A bass')
    expect(params().bands.map((b) => [b.hz, b.rangeDb])).toEqual([
      [80, -4],
      [170, -2],
    ])
    expect(new Set(params().bands.map((b) => b.id)).size).toBe(2)
  })

  it('take a time as a note at a tempo that is typed or tapped', async () => {
    const { user, params } = shown('follow')
    await user.click(screen.getByRole('button', { name: 'Band' }))
    await user.click(screen.getByRole('button', { name: 'As a note…' }))
    await type(user, 'Tempo', '90')
    await user.click(screen.getByRole('button', { name: '1/8: 333 ms' }))
    expect(params().bands[0].releaseMs).toBe(333)
    await user.click(screen.getByRole('button', { name: 'As a note…' }))
    const now = vi.spyOn(performance, 'now')
    for (const at of [10_000, 10_500, 11_000]) {
      now.mockReturnValue(at)
      fireEvent.click(screen.getByRole('button', { name: 'Tap' }))
    }
    now.mockRestore()
    await choose(user, 'Time to set', 'Attack')
    await user.click(screen.getByRole('button', { name: '1/32: 63 ms' }))
    expect(params().bands[0].attackMs).toBe(63)
  })
})

describe('a key', () => {
  it('is another track, taken before or after its fader, as mono or as middle and sides', async () => {
    const { user, made } = shown('duck')
    const options = within(screen.getByLabelText('Key')).getAllByRole('option')
    expect(options.map((o) => o.textContent)).toEqual(['No key', 'B Voice', 'C Bass', 'D Keys'])
    await choose(user, 'Key', 'B Voice')
    await choose(user, 'Key tap', 'Pre-fader')
    await choose(user, 'Key as', 'Mid/side')
    expect(made().key).toEqual({ node: 't1', tap: 'before-fader', as: 'mid-side' })
    await choose(user, 'Key', 'C Bass')
    expect(made().key).toEqual({ node: 't2', tap: 'before-fader', as: 'mid-side' })
    await choose(user, 'Key', 'No key')
    expect(made().key).toBeNull()
    expect(screen.queryByLabelText('Key as')).toBeNull()
  })

  it('is refused where two would listen to each other, in a sentence', async () => {
    const { user, made, session } = shown('duck')
    const back = {
      ...newTreatment('duck', 'y', 'fit'),
      key: { node: 't0', tap: 'after-fader', as: 'mono' },
    } as Treatment
    const add = { kind: 'add-treatment', node: 't1', treatment: back, before: null } as const
    act(() => void store.dispatch(sessionActions.edited([add])))
    expect(session().tracks[1].chain.treatments).toHaveLength(1)
    await choose(user, 'Key', 'B Voice')
    expect(made().key).toBeNull()
    expect(store.getState().session.refused?.sentence).toMatch(/Guitar.*Voice|Voice.*Guitar/)
  })
})

describe('a bank that follows', () => {
  it('is set by law, depth, fineness, times and spans, none of which cross', async () => {
    const { user, params } = shown('duck')
    await choose(user, 'Depth follows', 'Key level')
    await type(user, 'Max reduction', '40')
    expect(params().depthDb).toBe(6)
    await type(user, 'Max reduction', '9')
    await choose(user, 'Resolution', '0.5 ERB bands')
    await type(user, 'To', '4k')
    await type(user, 'From', '9k')
    await user.click(screen.getByLabelText('Slower release in the lows'))
    expect(params()).toMatchObject({
      law: 'even',
      depthDb: 9,
      fineness: 5,
      fromHz: 100,
      toHz: 4000,
      releaseByHz: false,
    })
    await user.click(screen.getByRole('button', { name: /^More: key level/ }))
    expect(screen.getAllByText('no latency').length).toBeGreaterThan(0)
    await type(user, 'Look ahead', '5')
    expect(screen.getAllByText('latency 5.0 ms').length).toBeGreaterThan(0)
    await choose(user, 'Phase', 'linear phase')
    expect(params().phase).toBe('linear')
    expect(screen.getAllByText('latency 42.7 ms').length).toBeGreaterThan(0)
    expect(screen.queryByRole('textbox', { name: /^Look ahead/ })).toBeNull()
  })

  it('takes a starting point’s span and times in one step', async () => {
    const { user, params } = shown('duck')
    const before = params()
    await choose(user, 'Start from', 'Speech')
    expect(params()).toMatchObject({ fromHz: 120, toHz: 9000, attackMs: 8, releaseMs: 250 })
    act(() => void store.dispatch(undo()))
    expect(params()).toEqual(before)
  })
})

describe('lining up by hand', () => {
  it('tells frames and milliseconds of the same delay', async () => {
    const { user, params } = shown('align')
    await type(user, 'Delay, samples', '-149.38')
    expect(params().delayFrames).toBe(-149.38)
    expect(field('Delay, ms').value.replace('−', '-')).toBe('-3.112')
    await type(user, 'Delay, ms', '1')
    expect(params().delayFrames).toBe(48)
    await user.click(screen.getByLabelText('Invert polarity'))
    await type(user, 'Rotate phase', '400')
    expect(params()).toMatchObject({ polarity: -1, turnDeg: 0 })
    await type(user, 'Rotate phase', '-120.5')
    expect(params().turnDeg).toBe(-120.5)
    await user.click(screen.getByLabelText('Invert polarity'))
    expect(params().polarity).toBe(1)
  })
})

describe('the low end in the middle', () => {
  it('has one frequency, which steps by semitones, and a slope', async () => {
    const { user, params } = shown('low-middle')
    await type(user, 'Mono below', '110')
    field('Mono below').focus()
    await user.keyboard('{ArrowUp}')
    expect(params().hz).toBeCloseTo(116.5, 1)
    await choose(user, 'Slope', '48 dB/oct')
    expect(params().slopeDbPerOct).toBe(48)
    expect(params().from).toBe('both')
    await choose(user, 'Low end from', 'Both, right inverted')
    expect(params().from).toBe('turned')
  })
})

describe('drive, leveller and broad strokes', () => {
  it('drive is set by how far, how much and how loud', async () => {
    const { user, params } = shown('drive')
    await type(user, 'Drive', '8')
    await type(user, 'Dry/wet', '40')
    await type(user, 'Output', '-2.5')
    expect(params()).toEqual({ driveDb: 8, mix: 0.4, outputDb: -2.5 })
  })

  it('a leveller is set by threshold, ratio, times and what its detector hears', async () => {
    const { user, params } = shown('leveller')
    await type(user, 'Max reduction', '4')
    await type(user, 'Threshold', '-31')
    await type(user, 'Ratio', '2.5')
    await choose(user, 'Detector', 'Fast only')
    await type(user, 'Sidechain low cut', '120')
    expect(params()).toMatchObject({
      atMostDb: 4,
      thresholdDb: -31,
      ratio: 2.5,
      detector: 'fast',
      lowCutHz: 120,
    })
  })

  it('broad strokes go in whole decibels from place to place, and their cuts stack', async () => {
    const { user, params } = shown('broad-strokes')
    await type(user, 'Presence', '2.4')
    await choose(user, 'Frequency of presence', '3.15 kHz')
    await type(user, 'Air', '-9')
    await choose(user, 'Low cut', '12 dB/oct')
    await choose(user, 'Frequency of low cut', '70.0 Hz')
    await user.click(screen.getByLabelText('Polarity inverted'))
    expect(params()).toMatchObject({
      presence: { hz: 3150, db: 2 },
      air: { db: -9 },
      lowCut: { hz: 70, layers: 2 },
      polarity: -1,
    })
  })
})
