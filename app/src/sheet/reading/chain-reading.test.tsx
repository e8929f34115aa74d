// @vitest-environment happy-dom
import { newBand } from '@sober-prism/core/filters'
import { LOW_END_BANDS } from '@sober-prism/core/findings'
import type { Edit } from '@sober-prism/core/session'
import { crossSpectrum } from '@sober-prism/core/spectrum'
import { newChainBand, newTreatment, type Treatment } from '@sober-prism/core/treatments'
import { act, screen } from '@testing-library/react'
import { describe, expect, it, vi } from 'vitest'
import { plumb } from '../../plot/plumb'
import { sessionOf, show } from '../../testing/render'
import { EqualiserSheet } from '../equaliser-sheet'
import { decimalsOf } from './draw-reading'
import { readLine } from './read-chain'
import { PAIR_BANDS } from './use-pair'

const RATE = 48000
const band = { ...newBand('bell', 1000), db: -6, q: 2 }
const bell = (phase: 'minimum' | 'linear'): Treatment =>
  newTreatment('equaliser', 'e', 'fit', { phase, bands: [newChainBand('b', band)] })
const align = newTreatment('align', 'a', 'fit', { delayFrames: 48, polarity: -1, turnDeg: 0 })
const most = (values: ArrayLike<number>) =>
  Array.from(values).reduce((a, v) => Math.max(a, Math.abs(v)), 0)

describe('reading a chain', () => {
  it('rules its picture in figures that say what they are', () => {
    expect([1, 2, 2.5, 5, 10, 0.5, 0.25, 25].map(decimalsOf)).toEqual([0, 0, 1, 0, 0, 1, 2, 0])
  })

  it('finds no turn in linear phase, and what the formulas say in minimum phase', () => {
    expect(most(readLine([bell('linear')], 'phase', RATE, false).values)).toBeLessThan(0.5)
    // A bell of -6 dB turns by up to asin((1 - A) / (1 + A)) with A its gain: arcsin of a third.
    const deepest = most(readLine([bell('minimum')], 'phase', RATE, false).values)
    expect(deepest).toBeCloseTo((180 / Math.PI) * Math.asin((2 - 1) / (2 + 1)), 0)
  })

  it('tells delay and polarity of what lines up', () => {
    const delay = readLine([align], 'delay', RATE, false).values
    expect(delay[100]).toBeCloseTo(1, 6)
    expect(delay[400]).toBeCloseTo(1, 6)
    const { values, times } = readLine([align], 'impulse', RATE, false)
    const at = Array.from(values).indexOf(-1)
    expect(times?.[at]).toBeCloseTo(1, 6)
  })

  it('shows gain over time of what follows, and says what to choose where nothing does', async () => {
    const follow = newTreatment('follow', 'f', 'fit')
    const edits: Edit[] = [{ kind: 'add-treatment', node: 't0', treatment: follow, before: null }]
    const { user } = show(<EqualiserSheet />, sessionOf(['Voice'], ...edits))
    await user.click(screen.getByRole('button', { name: /^Clean$/ }))
    await user.selectOptions(screen.getByLabelText('Graph below'), 'gains')
    screen.getByText('Select a dynamic treatment in the chain.')
    await user.click(screen.getByRole('button', { name: /^Dynamic EQ/ }))
    screen.getByText(/^Solid: largest cut/)
    screen.getByRole('img', { name: 'Gain of the bands over the last twenty seconds' })
    await user.selectOptions(screen.getByLabelText('Graph below'), 'No graph below')
  })

  it('tells left from right in the low end, without what brings it to the middle and with it', async () => {
    const lowMiddle = newTreatment('low-middle', 'l', 'fit')
    const edits: Edit[] = [
      { kind: 'add-treatment', node: 't0', treatment: lowMiddle, before: null },
    ]
    const { user, desk } = show(<EqualiserSheet />, sessionOf(['Voice'], ...edits))
    const below = { left: -20, right: -21, mid: -22.5, side: -25, monoLoss: 2 }
    const columns = 4
    const before = { columns, correlation: new Float32Array(4 * LOW_END_BANDS.length), below }
    const after = { ...before, below: { ...below, side: -200, monoLoss: 0 } }
    const lowEnd = vi.fn(async () => ({ before, after }))
    Object.assign(desk.ask, { lowEnd })
    await user.click(screen.getByRole('button', { name: /^Mono low end/ }))
    await user.selectOptions(screen.getByLabelText('Graph below'), 'low-end')
    await screen.findByText(
      'Below 120 Hz: left −20.0 → −20.0, right −21.0 → −21.0, middle −22.5 → −22.5, sides −25.0 → −∞ dB; the mono sum loses 2.0 → 0.0 dB',
    )
    expect(lowEnd).toHaveBeenCalledWith({ node: 't0', treatment: 'l', hz: 120 }, expect.anything())
    screen.getByRole('img', { name: /^How unlike left and right are below 640 Hz/ })
    await user.selectOptions(screen.getByLabelText('Graph below'), 'No graph below')
  })

  it('stands below the sheet on demand, in all phase modes', async () => {
    const edits: Edit[] = [
      { kind: 'add-treatment', node: 't0', treatment: bell('minimum'), before: null },
    ]
    const { user } = show(<EqualiserSheet />, sessionOf(['Voice'], ...edits))
    await user.selectOptions(screen.getByLabelText('Graph below'), 'phase')
    await user.click(screen.getByLabelText('All phase modes'))
    act(() => plumb.set(800))
    const reading = await screen.findByText(
      /^80\d Hz: minimum −?\d+\.\d °, mixed 0\.\d °, linear 0\.\d °$/,
    )
    expect(reading).toBeTruthy()
    // What each costs stands beside it: a bell of 6 dB is carried by the short linear filter in mixed phase.
    screen.getByText('minimum: no latency')
    const late = (mode: string) =>
      Number(new RegExp(`^${mode}: latency (\\d+\\.\\d) ms`).exec(textOf(mode))?.[1])
    const textOf = (mode: string) =>
      screen.getByText(new RegExp(`^${mode}: .* ms, (no pre-ringing|pre-ringing −\\d+ dB)$`))
        .textContent ?? ''
    expect(late('mixed')).toBeGreaterThan(1)
    expect(late('linear')).toBeGreaterThan(late('mixed'))
    await user.selectOptions(screen.getByLabelText('Graph below'), 'No graph below')
    expect(screen.queryByLabelText('All phase modes')).toBeNull()
  })

  it('tells what two tracks gain or lose by adding up', async () => {
    const edits: Edit[] = [{ kind: 'add-treatment', node: 't0', treatment: align, before: null }]
    const { user, desk } = show(<EqualiserSheet />, sessionOf(['Near', 'Far'], ...edits))
    const noise = Float32Array.from({ length: 3 * RATE }, (_, i) => Math.sin(i * i * 0.37))
    const read = {
      cross: crossSpectrum([noise], [noise], RATE),
      sum: new Float64Array(PAIR_BANDS.length),
    }
    Object.assign(desk.ask, { pair: vi.fn(async () => read) })
    act(() => plumb.set(null))
    await user.selectOptions(screen.getByLabelText('Graph below'), 'Sum with a track')
    await screen.findByText(/dB in all \(measured .*\); at worst −\d\d\.\d dB at/)
    // A millisecond later and turned over: 1 kHz is whole periods away, and cancels.
    act(() => plumb.set(1000))
    const text = (await screen.findByText(/^\d.*: predicted/)).textContent ?? ''
    expect(Number(/predicted −(\d+)/.exec(text)?.[1])).toBeGreaterThan(8)
  })
})
