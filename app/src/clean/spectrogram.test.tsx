// @vitest-environment happy-dom
import { newBand } from '@sober-prism/core/filters'
import { newChainBand, newTreatment } from '@sober-prism/core/treatments'
import { act, screen } from '@testing-library/react'
import { useState } from 'react'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { rulerSpan, WHOLE_RULER } from '../plot/ruler'
import { store } from '../store/store'
import { sessionOf, show } from '../testing/render'
import { cleanActions, selectClean, WHOLE_VIEW } from './clean-slice'
import { COLUMNS, ROWS } from './draw-spectrogram'
import { Spectrogram } from './spectrogram'
import { readRegion, regionUseEdits } from './spectrogram-region'
import { columnEdges, useSpectrogram } from './use-spectrogram'
import { moved, scrolled, zoomed } from './view'

const edgesHz = columnEdges(WHOLE_VIEW)
const levels = new Float32Array(ROWS * COLUMNS).fill(-90)
/** A tone at 1 kHz in the second quarter of the passage. */
const column = edgesHz.findIndex((edge) => edge > 1000) - 1
for (let r = ROWS / 4; r < ROWS / 2; r++) levels[r * COLUMNS + column] = -20
const reading = {
  levels,
  before: null,
  edgesHz,
  view: WHOLE_VIEW,
  stretch: { fromFrame: 0, toFrame: 48000 },
}
const state = () => selectClean(store.getState()).spectrogram

describe('a region', () => {
  it('is read: its loudest place, and nothing of what lies beside it', () => {
    const found = readRegion(reading, { from: 0.2, to: 0.6, lowHz: 500, highHz: 2000 })
    expect((found?.hz ?? 0) / 1000).toBeCloseTo(1, 1)
    expect(found?.db).toBe(-20)
    expect(readRegion(reading, { from: 0.6, to: 0.9, lowHz: 500, highHz: 2000 })?.db).toBe(-90)
  })

  it('becomes a bell as wide as it is, a needle, or a series in one curve', () => {
    const session = sessionOf(['Voice'])
    const region = { from: 0, to: 1, lowHz: 900, highHz: 1100 }
    const found = { hz: 1000, db: -20, meanDb: -40 }
    const [bell] = regionUseEdits(session, 't0', 'bell', region, found)?.edits ?? []
    expect(bell).toMatchObject({
      kind: 'add-band',
      chainBand: { band: { hz: 1000, q: 5, db: -6 } },
    })
    const [series] = regionUseEdits(session, 't0', 'series', region, found)?.edits ?? []
    if (series.kind !== 'add-treatment') throw new Error('A series is a treatment.')
    const { params } = series.treatment
    if (!('points' in params)) throw new Error('A series is a drawn curve.')
    // 1 to 20 kHz: the twentieth lies at the edge and is left out.
    expect(params.points.filter((p) => p.db === -120)).toHaveLength(2 * 19)
  })
})

describe('what is looked at', () => {
  it('is zoomed about a place, scrolled, and never leaves the passage and the ruler', () => {
    const near = zoomed(WHOLE_VIEW, 'time', 0.1, 0.95)
    expect([near.from, near.to].map((v) => Math.round(1000 * v) / 1000)).toEqual([0.855, 0.955])
    expect(scrolled(near, 'time', 1).from).toBeCloseTo(0.875, 6)
    expect(scrolled(scrolled(scrolled(near, 'time', 1), 'time', 1), 'time', 1).to).toBe(1)
    expect(zoomed(zoomed(WHOLE_VIEW, 'frequency', 0.2, 1000), 'frequency', 9)).toEqual(WHOLE_VIEW)
    const wider = moved({ ...WHOLE_VIEW, from: 0.4, to: 0.6 }, 'time', 1, true)
    expect([wider.from, wider.to].map((v) => Number(v.toFixed(6)))).toEqual([0.4, 0.65])
  })
})

describe('the spectrogram', () => {
  beforeEach(() => {
    act(() => {
      store.dispatch(
        cleanActions.spectrogramChanged({
          side: 'recorded',
          stretch: { from: 0, to: 1 },
          region: null,
        }),
      )
    })
  })

  it('is zoomed, scrolled and has a region by keys alone, which is played and put on the sheet', async () => {
    const { user, desk, session } = show(<Spectrogram node="t0" />, sessionOf(['Voice']))
    desk.ask.spectrogram.mockResolvedValue(levels)
    act(() => void store.dispatch(cleanActions.spectrogramChanged({ size: 1024 })))
    const plot = screen.getByRole('application')
    await screen.findByText(/Point to read/)
    act(() => plot.focus())
    await user.keyboard('+{ArrowDown}')
    expect(state().stretch.from).toBeGreaterThan(0.1)
    await user.keyboard('{Escape}{Enter}{ArrowRight}{Shift>}{ArrowDown}{/Shift}')
    expect(state().stretch).toEqual({ from: 0, to: 1 })
    expect(rulerSpan.value).toBe(WHOLE_RULER)
    await user.click(await screen.findByRole('button', { name: 'Play it alone' }))
    expect(desk.hear).toHaveBeenLastCalledWith(
      expect.objectContaining({ kind: 'region', node: 't0' }),
    )
    await user.click(screen.getByRole('button', { name: 'Add bell' }))
    expect(session().tracks[0].chain.treatments[0]).toMatchObject({
      kind: 'equaliser',
      stage: 'clean',
    })
    act(() => plot.focus())
    await user.keyboard('{Escape}')
    expect(state().region).toBeNull()
  })

  it('asks for a group and for both sides of its chain', async () => {
    const session = sessionOf(['Voice'], {
      kind: 'add-group',
      id: 'g',
      name: 'All',
      members: ['t0'],
    })
    const { desk } = show(<Spectrogram node="g" />, session)
    const draw = desk.ask.spectrogram.mockResolvedValue(levels)
    draw.mockClear()
    act(() => void store.dispatch(cleanActions.spectrogramChanged({ side: 'both' })))
    await vi.waitFor(() =>
      expect(draw.mock.calls.map(([args]: unknown[]) => args)).toEqual([
        expect.objectContaining({ node: 'g', side: 'treated' }),
        expect.objectContaining({ node: 'g', side: 'recorded' }),
      ]),
    )
  })

  it('shows a reference, hears it from where one presses, and draws no region in it', async () => {
    const audio = { hash: 'f'.repeat(64), channels: 2, frames: 96_000 }
    const session = sessionOf(['Voice'], {
      kind: 'add-references',
      references: [{ id: 'q', name: 'Quay', audio }],
    })
    const { user, desk } = show(<Spectrogram node="t0" />, session)
    const draw = desk.ask.spectrogram.mockResolvedValue(levels)
    draw.mockClear()
    act(
      () =>
        void store.dispatch(cleanActions.spectrogramChanged({ side: 'reference', reference: 'q' })),
    )
    await screen.findByText(/click to hear it from there in place of the mix/)
    for (const [args] of draw.mock.calls as unknown[][]) {
      expect(args).toMatchObject({ node: 'q', side: 'recorded' })
    }
    const plot = screen.getByRole('application')
    act(() => plot.focus())
    await user.keyboard('{Enter}')
    expect(state().region).toBeNull()
    await user.pointer([{ keys: '[MouseLeft]', target: plot }])
    expect(desk.hear).toHaveBeenLastCalledWith({ kind: 'reference', reference: 'q', range: null })
  })

  it('shows a long recording coarsely before it is drawn in full', async () => {
    const audio = { hash: 'f'.repeat(64), channels: 2, frames: 600 * 48_000 }
    const session = sessionOf(['Voice'], {
      kind: 'add-references',
      references: [{ id: 'q', name: 'Quay', audio }],
    })
    const long = session.references.map((r) => ({
      ...r,
      passage: { fromFrame: 0, toFrame: audio.frames },
    }))
    const { desk } = show(<Spectrogram node="t0" />, { ...session, references: long })
    let finish = (_: Float32Array) => {}
    const coarse = new Float32Array((ROWS / 16) * COLUMNS).fill(-60)
    const draw = desk.ask.spectrogram as unknown as ReturnType<typeof vi.fn>
    draw.mockClear()
    draw.mockImplementation(({ rows }: { rows: number }) =>
      rows < ROWS
        ? Promise.resolve(coarse)
        : new Promise<Float32Array>((resolve) => {
            finish = resolve
          }),
    )
    const reference = { side: 'reference' as const, reference: 'q' }
    act(() => void store.dispatch(cleanActions.spectrogramChanged(reference)))
    // There is something to read while the whole is still being drawn.
    await screen.findByText(/click to hear it from there/)
    expect(draw.mock.calls.map(([{ rows }]) => rows)).toEqual([ROWS / 16, ROWS])
    await act(async () => finish(levels))
    screen.getByText(/click to hear it from there/)
  })
})

function Level({ at }: { at: number }) {
  const [side, setSide] = useState<'off' | 'treated'>('off')
  const { reading } = useSpectrogram('t0', side, 1024, WHOLE_VIEW)
  return (
    <button type="button" onClick={() => setSide('treated')}>
      {reading ? reading.levels[at].toFixed(1) : 'Draw'}
    </button>
  )
}

describe('a long track behind its chain', () => {
  it('is drawn with what stands still of its chain until its sound has passed it', async () => {
    const session = sessionOf(['Voice'])
    const [voice] = session.tracks
    const band = { ...newBand('bell', 1000), db: -12, q: 1 }
    const params = { phase: 'minimum' as const, bands: [newChainBand('m', band)] }
    const treatments = [newTreatment('equaliser', 'e', 'clean', params)]
    const output = { ...voice.chain.output, gainDb: -6 }
    const audio = { ...voice.audio, frames: 60 * session.sampleRateHz }
    const long = { ...session, tracks: [{ ...voice, audio, chain: { treatments, output } }] }
    const { desk, user } = show(<Level at={column} />, long)
    let arrive = (_: Float32Array) => {}
    desk.ask.spectrogram.mockResolvedValueOnce(levels)
    desk.ask.spectrogram.mockImplementationOnce(() => new Promise((resolve) => (arrive = resolve)))
    await user.click(screen.getByRole('button', { name: 'Draw' }))
    // Of silence at -90 dB the bell takes 12 dB and the output 6.
    await screen.findByRole('button', { name: '-108.0' })
    await act(async () => arrive(new Float32Array(ROWS * COLUMNS).fill(-50)))
    screen.getByRole('button', { name: '-50.0' })
  })
})
