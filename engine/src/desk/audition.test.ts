import { newBand } from '@sober-prism/core/filters'
import {
  applyEdits,
  chainOf,
  type Edit,
  emptySession,
  MOST,
  type Session,
} from '@sober-prism/core/session'
import { MIX, newChainBand, newTreatment } from '@sober-prism/core/treatments'
import { describe, expect, it } from 'vitest'
import type { SessionFinding } from '../analysis/session-finding'
import {
  auditionEdits,
  bandState,
  huntState,
  rangeState,
  referenceState,
  referenceStretch,
} from './audition'

const RATE = 48000
const audio = (n: number, seconds: number) => ({
  hash: `${n}`.padStart(64, '0'),
  channels: 2 as const,
  frames: seconds * RATE,
})
const base = (...edits: readonly Edit[]): Session =>
  applyEdits(emptySession('s', 'n', '2026-03-04T05:06:07.000Z', RATE), [
    {
      kind: 'add-tracks',
      tracks: ['Voice', 'Guitar'].map((name, i) => ({
        id: `t${i}`,
        name,
        role: 'other' as const,
        audio: audio(i, 60),
        timeStampSeconds: null,
      })),
    },
    { kind: 'add-references', references: [{ id: 'r', name: 'Quay', audio: audio(9, 90) }] },
    ...edits,
  ])
const chainBand = newChainBand('m', { ...newBand('bell', 1200), db: -4, q: 9 })
const finding = (change: Partial<SessionFinding> = {}) =>
  ({
    key: 'k',
    kind: 'masking',
    tracks: ['t1', 't0'],
    hz: 1000,
    fromHz: 500,
    toHz: 1500,
    moves: [
      {
        kind: 'add-band',
        node: 't1',
        stage: 'fit',
        treatment: null,
        newTreatment: 'proposed',
        chainBand: newChainBand('proposed', chainBand.band),
      },
    ],
    ...change,
  }) as SessionFinding
const bandsOf = (session: Session, node: string) =>
  (chainOf(session, node)?.treatments ?? []).flatMap((t) =>
    t.kind === 'equaliser' ? t.params.bands.map((m) => m.band) : [],
  )

describe('hearing a finding', () => {
  it('brings its range forward on every track it names, as wide as it is', () => {
    const session = applyEdits(base(), auditionEdits(finding(), 'forward'))
    for (const node of ['t0', 't1']) {
      const [band] = bandsOf(session, node)
      expect(band).toMatchObject({ type: 'bell', hz: 1000, q: 1 })
      expect(band.db).toBeGreaterThan(6)
    }
  })

  it('brings it forward on the mix where it names no track, within what a band can be', () => {
    const wide = finding({ tracks: [], hz: 15, fromHz: 10, toHz: 40_000 })
    const session = applyEdits(base(), auditionEdits(wide, 'forward'))
    expect(bandsOf(session, MIX)[0]).toMatchObject({ hz: 20, q: 0.5 })
  })

  it('makes its moves, or none, and never two with one identity', () => {
    expect(auditionEdits(finding(), 'without')).toEqual([])
    const twice = finding({ moves: [...finding().moves, ...finding().moves] })
    const session = applyEdits(base(), auditionEdits(twice, 'moves'))
    expect(bandsOf(session, 't1').map((b) => b.db)).toEqual([-4, -4])
    expect(JSON.stringify(session)).not.toContain('"proposed"')
  })
})

describe('hearing a hunt, a band or a range', () => {
  it('puts the hunt’s boost behind all that the chain does', () => {
    const session = base({
      kind: 'add-treatment',
      node: 't0',
      treatment: newTreatment('drive', 'd', 'shape'),
      before: null,
    })
    const hunted = huntState(session, { node: 't0', hz: 2500, q: 12, db: 9 })
    expect(chainOf(hunted, 't0')?.treatments.map((t) => t.id)).toEqual(['d', 'hunt'])
  })

  it('is heard also of a chain that holds as much as it may', () => {
    const full = base(
      ...Array.from(
        { length: MOST.treatments },
        (_, i): Edit => ({
          kind: 'add-treatment',
          node: 't0',
          treatment: newTreatment('drive', `d${i}`, 'shape'),
          before: null,
        }),
      ),
    )
    const hunted = huntState(full, { node: 't0', hz: 2500, q: 12, db: 9 })
    expect(bandsOf(hunted, 't0')).toMatchObject([{ hz: 2500, db: 9 }])
    expect(bandsOf(rangeState(full, 't0', { fromHz: 50, toHz: 900 }), 't0')).toHaveLength(2)
  })

  const withBand = base({
    kind: 'add-band',
    node: 't1',
    stage: 'fit',
    treatment: null,
    newTreatment: 'e',
    chainBand,
  })

  it('lets a band’s range alone be heard, its node alone, no narrower than a sound', () => {
    const heard = bandState(withBand, { kind: 'band', node: 't1', band: 'm', way: 'only' })
    const [, ...range] = bandsOf(heard, 't1')
    expect(range.map((b) => [b.type, b.hz, b.q])).toEqual([
      ['band-pass', 1200, 6],
      ['band-pass', 1200, 6],
    ])
    expect(heard.tracks.map((t) => t.solo)).toEqual([false, true])
  })

  it('lets all but it be heard among the others', () => {
    const heard = bandState(withBand, { kind: 'band', node: 't1', band: 'm', way: 'rest' })
    expect(bandsOf(heard, 't1').map((b) => b.type)).toEqual(['bell', 'notch'])
    expect(heard.tracks.some((t) => t.solo)).toBe(false)
  })

  it('does nothing for a band that is gone', () => {
    const session = base()
    expect(bandState(session, { kind: 'band', node: 't1', band: 'm', way: 'only' })).toBe(session)
  })

  it('cuts steeply at the edges of a range, and solos no mix', () => {
    const heard = rangeState(base(), 't0', { fromHz: 5, toHz: 900 })
    expect(bandsOf(heard, 't0').map((b) => [b.type, b.hz, b.slopeDbPerOct])).toEqual([
      ['low-cut', 20, 48],
      ['high-cut', 900, 48],
    ])
    expect(heard.tracks[0].solo).toBe(true)
    const mix = rangeState(base(), MIX, { fromHz: 50, toHz: 900 })
    expect(mix.tracks.some((t) => t.solo)).toBe(false)
    expect(bandsOf(mix, MIX)).toHaveLength(2)
  })
})

describe('hearing a reference', () => {
  const passage = { fromFrame: 20 * RATE, toFrame: 30 * RATE }
  const session = base({ kind: 'set-session', change: { passage } }, {
    kind: 'set-reference',
    reference: 'r',
    change: { passage: { fromFrame: 45 * RATE, toFrame: 51 * RATE } },
  } as Edit)

  it('puts it alone in place of everything, its passage where the session’s begins', () => {
    const heard = referenceState(session, 'r')
    expect(heard.tracks.map((t) => t.audio.hash)).toEqual([audio(9, 90).hash])
    expect(heard.tracks[0].offsetFrames).toBe(-25 * RATE)
    expect([heard.groups, heard.leadIds]).toEqual([[], []])
    expect(referenceStretch(session, 'r')).toEqual({ fromFrame: 20 * RATE, toFrame: 26 * RATE })
  })

  it('is silence where it is gone', () => {
    expect(referenceState(session, 'gone').tracks).toEqual([])
    expect(referenceStretch(session, 'gone')).toBeNull()
  })
})
