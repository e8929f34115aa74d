// @vitest-environment happy-dom

import { newBand } from '@sober-prism/core/filters'
import { LEVEL_BANDS, type SourceReading } from '@sober-prism/core/findings'
import type { Edit } from '@sober-prism/core/session'
import { MIX, newChainBand } from '@sober-prism/core/treatments'
import type { Analysis } from '@sober-prism/engine'
import { act, screen } from '@testing-library/react'
import { describe, expect, it } from 'vitest'
import { interfaceActions } from '../store/interface-slice'
import { openSession } from '../store/selectors'
import { store } from '../store/store'
import { sessionOf, show } from '../testing/render'
import { CandidatesPane } from './candidates-pane'

const needles = [50, 100, 150].map((hz) => ({ ...newBand('notch', hz), q: 40 }))
const ring = { hz: 2310, q: 14, db: 11, leftDb: 11, score: 1.5, likelihood: 0.82 }

function measuredWith({
  rings = [],
  ...parts
}: Partial<SourceReading>): Pick<Analysis, 'tracks' | 'rings'> {
  const reading = {
    rumble: null,
    harshness: null,
    hum: null,
    lowest: { hz: 220, isNote: true, pitchedShare: 0.9, track: Float32Array.of(220, 0, 247) },
    levels: new Float64Array(LEVEL_BANDS.length).fill(-40),
    bands: { frames: 0, secondsPerFrame: 0.04, mid: new Float32Array(), side: new Float32Array() },
    ...parts,
  } as unknown as SourceReading
  return {
    tracks: new Map([['t0', { levels: reading.levels, lufs: -20, reading }]]),
    rings: new Map([['t0', rings]]),
  }
}
const session = () => sessionOf(['Voice', 'Guitar'])
const shown = (parts: Partial<SourceReading>) => {
  return show(<CandidatesPane />, session(), { fresh: true, ...measuredWith(parts) })
}
const chainOfVoice = () => openSession(store.getState()).tracks[0].chain.treatments

describe('what may not be the source', () => {
  it('asks for a track, and says when there is nothing', () => {
    shown({})
    act(() => void store.dispatch(interfaceActions.nodeChosen(MIX)))
    screen.getByText(/Select a track to see/)
    act(() => void store.dispatch(interfaceActions.nodeChosen('t0')))
    screen.getByText(/No problems found/)
  })

  it('says that resonances are still looked for, or were not', () => {
    const { tracks } = measuredWith({})
    const work = { what: 'Looking for resonances', share: 0.5 }
    const { unmount } = show(<CandidatesPane />, session(), { tracks, work })
    screen.getByText('Still looking for resonances.')
    expect(screen.queryByText(/No problems found/)).toBeNull()
    unmount()
    // Measuring was stopped.
    show(<CandidatesPane />, session(), { tracks, work: null })
    screen.getByText('Resonances have not been looked for.')
  })

  it('answers harsh moments by a band that hears them', async () => {
    const cut = { ...newBand('bell', 6450), q: 1.4, db: -3 }
    const moments = { hz: 6400, fromHz: 5000, toHz: 8200, excessDb: 14, timeShare: 0.06 }
    const { user } = shown({
      harshness: { ...moments, cut, thresholdDb: -38 },
    })
    store.dispatch(interfaceActions.nodeChosen('t0'))
    await screen.findByText('Harsh moments at 6.40 kHz')
    await user.click(screen.getByRole('button', { name: 'Dynamic cut up to 6 dB, Q 1.4' }))
    expect(chainOfVoice()).toMatchObject([
      {
        kind: 'follow',
        stage: 'clean',
        key: null,
        params: {
          bands: [
            {
              hz: 6450,
              rangeDb: -6,
              threshold: { against: 'absolute', db: -38 },
              listens: { to: 'itself' },
            },
          ],
        },
      },
    ])
  })

  it('tells a ring with its figures and reason, and cuts it', async () => {
    const { user } = shown({ rings: [ring] })
    store.dispatch(interfaceActions.nodeChosen('t0'))
    await screen.findByText('Resonance at 2.31 kHz')
    screen.getByText('82 % likely')
    screen.getByText(/^About 11 dB high/)
    screen.getByText(/it stays whatever is played/)
    await user.click(screen.getByRole('button', { name: 'Cut by 8.5 dB, Q 14' }))
    const [treatment] = chainOfVoice()
    expect(treatment).toMatchObject({
      kind: 'equaliser',
      stage: 'clean',
      params: { bands: [{ band: { type: 'bell', hz: 2310, db: -8.5 } }] },
    })
    expect(store.getState().interface.notice?.text).toBe('Cut: Resonance at 2.31 kHz.')
  })

  it('says what a cut has left, until nothing worth telling is left', async () => {
    const cut = (hz: number, db: number, q: number): Edit => ({
      kind: 'add-band',
      node: 't0',
      stage: 'clean',
      treatment: null,
      newTreatment: 'e',
      chainBand: newChainBand('m', { ...newBand('bell', hz), db, q }),
    })
    // The boost stood beside it, and wide.
    const piece = sessionOf(['Voice', 'Guitar'], cut(2250, -6, 8))
    const { user, session: now } = show(<CandidatesPane />, piece, {
      fresh: true,
      ...measuredWith({ rings: [ring] }),
    })
    await screen.findByText(
      /^6\.\d of 11\.0 dB remain\. 11\.0 dB with Q 14 at 2\.31 kHz would take it out\./,
    )
    expect(screen.queryByText(/No problems found/)).toBeNull()
    await user.click(screen.getByRole('button', { name: 'Change the cut to −11.0 dB, Q 14' }))
    const [treatment] = now().tracks[0].chain.treatments
    expect(treatment.params).toMatchObject({ bands: [{ band: { hz: 2310, db: -11, q: 14 } }] })
    await screen.findByText(/No problems found/)
  })

  it('sets all needles of a hum as one treatment, with the reason', async () => {
    const hum = {
      hz: 50.02,
      mainsHz: 50 as const,
      harmonics: [1, 2, 3].map((number) => ({ number, heightDb: 20, levelDb: -60 })),
      levelDb: -50,
      cuts: needles,
    }
    const { user } = shown({ hum })
    store.dispatch(interfaceActions.nodeChosen('t0'))
    await user.click(await screen.findByRole('button', { name: 'Add 3 notches' }))
    const [treatment] = chainOfVoice()
    expect(treatment.reason).toContain('50 Hz mains')
    expect(treatment.kind === 'equaliser' && treatment.params.bands.length).toBe(3)
  })

  it('makes all of a kind at once', async () => {
    const other = { ...ring, hz: 800, likelihood: 0.7 }
    const unsure = { ...ring, hz: 4000, score: -2, likelihood: 0.05 }
    const { user } = shown({ rings: [ring, other, unsure] })
    store.dispatch(interfaceActions.nodeChosen('t0'))
    // What is tentative is not cut along.
    await screen.findByText(/Tentative: listen first/)
    await user.click(screen.getByRole('button', { name: 'Cut all resonances (2)' }))
    const [treatment] = chainOfVoice()
    expect(treatment.kind === 'equaliser' && treatment.params.bands.map((m) => m.band.hz)).toEqual([
      2310, 800,
    ])
  })

  it('places a low cut under the lowest note and says what it takes', async () => {
    const { user } = shown({})
    store.dispatch(interfaceActions.nodeChosen('t0'))
    await screen.findByText(/The lowest note is 220 Hz/)
    screen.getByText(
      /A low cut at 136 Hz costs 0\.1 dB at 220 Hz and \d\.\d\d dB overall \(\d+\.\d\d of \d+\.\d sone\)/,
    )
    screen.getByRole('img', { name: /Pitch over the passage, from 220 Hz to 247 Hz/ })
    await user.click(screen.getByRole('button', { name: /^Low cut at 136 Hz/ }))
    expect(chainOfVoice()[0]).toMatchObject({ params: { bands: [{ band: { type: 'low-cut' } }] } })
    // What stands in the chain is not offered again.
    screen.getByText('A low cut at 136 Hz is in the chain.')
    expect(screen.queryByRole('button', { name: /^Low cut at/ })).toBeNull()
  })

  it('tells of a voice how near and how clear it is, and makes the moves that are ticked', async () => {
    const near = LEVEL_BANDS.map((b) => (b.hz < 300 ? -20 : b.hz < 1400 ? -30 : -40))
    const { user } = shown({
      levels: Float64Array.from(near),
      lowest: { hz: 105, isNote: true, pitchedShare: 0.9, track: Float32Array.of(105, 120) },
    })
    await screen.findByText(/dB more below 300 Hz; no voice above 10 kHz to judge/)
    await user.click(screen.getByRole('checkbox', { name: /^Low cut at/ }))
    await user.click(screen.getByRole('button', { name: 'Apply 1 move' }))
    const [treatment] = chainOfVoice()
    expect(treatment).toMatchObject({
      params: { bands: [{ band: { type: 'low-shelf', db: -4 } }] },
    })
    expect(treatment.kind === 'equaliser' && treatment.params.bands[0].reason).toMatch(/^Proximity/)
  })
})
