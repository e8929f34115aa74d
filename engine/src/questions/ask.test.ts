import { applyEdits, type Edit, emptySession, type Session } from '@sober-prism/core/session'
import { newTreatment } from '@sober-prism/core/treatments'
import { describe, expect, it, vi } from 'vitest'
import { makeAsk } from './ask'
import { wholeOf } from './question'

const RATE = 48000
const audio = (i: number, minutes: number) => ({
  hash: `${i}`.padStart(64, '0'),
  channels: 2 as const,
  frames: minutes * 60 * RATE,
})
const sessionOf = (minutes: number, ...edits: Edit[]): Session => {
  const tracks = ['Voice', 'Guitar'].map((name, i) => ({
    id: `t${i}`,
    name,
    role: 'other' as const,
    audio: audio(i, minutes),
    timeStampSeconds: null,
  }))
  const references = [{ id: 'r', name: 'Quay', audio: audio(7, 4) }]
  const empty = emptySession('s', 'A piece', '2026-03-04T05:06:07.000Z', RATE)
  return applyEdits(empty, [
    { kind: 'add-tracks', tracks },
    { kind: 'add-references', references },
    ...edits,
  ])
}
type Ran = [task: string, input: Record<string, never>, options: Record<string, unknown>]

/** Questions about a session, of which each worker's task answers with what it is told to. */
function asking(session: Session | null, answers: Record<string, unknown>, missing: string[] = []) {
  const run = vi.fn(async (task: string, ..._: unknown[]) => answers[task])
  const find = async (list: readonly { hash: string }[]) =>
    new Map(list.filter((a) => !missing.includes(a.hash)).map((a) => [a.hash, { of: a.hash }]))
  const ask = makeAsk({ run } as never, { find } as never, () => session)
  const ran = () => run.mock.calls as unknown as Ran[]
  return { ask, ran, run }
}
const title = { name: 'A profile' }
const spec = { kind: 'linear', slopeDbPerOct: 24, hz: [200] } as const
const LOWS = { fromHz: 40, toHz: 400 }
const VIEW = { size: 2048, rows: 4, edgesHz: Float64Array.of(20, 20_000) }
const treatmentsOf = (sound: unknown) =>
  (sound as { chain: { treatments: { id: string }[] } }).chain.treatments.map((t) => t.id)
const seconds = ({ fromFrame, toFrame }: { fromFrame: number; toFrame: number }) =>
  (toFrame - fromFrame) / RATE
const add = (node: string, kind: 'leveller' | 'low-middle' | 'follow', id: string): Edit => ({
  kind: 'add-treatment',
  node,
  treatment: newTreatment(kind, id, 'fit'),
  before: null,
})

describe('what is asked about a track', () => {
  it('is asked of its trimmed recording, or of what its chain makes of it', async () => {
    const { ask, ran } = asking(sessionOf(2), { spectrogram: new Float32Array(4) })
    const view = { ...VIEW, stretch: { fromFrame: 0, toFrame: RATE } }
    expect(await ask.spectrogram({ node: 't0', side: 'recorded', ...view })).toHaveLength(4)
    await ask.spectrogram({ node: 't0', side: 'treated', ...view })
    await ask.spectrogram({ node: 'mix', side: 'treated', ...view })
    expect(ran().map(([, input]) => (input.sound as { of: string }).of)).toEqual([
      'chain',
      'chain',
      'mix',
    ])
    expect(ran().every(([, , options]) => options.first === true)).toBe(true)
  })

  it('is how loud it is, at its trim, asked once for one state of it', async () => {
    const session = sessionOf(2, { kind: 'change-trim', node: 't0', db: -7 })
    const { ask, ran } = asking(session, { loudness: -31 })
    expect(await ask.loudness({ track: 't0' })).toBe(-31)
    expect(await ask.loudness({ track: 't0' })).toBe(-31)
    expect(ran()).toHaveLength(1)
    expect(ran()[0][1]).toMatchObject({ sound: { chain: { trim: expect.closeTo(0.447, 3) } } })
  })

  it('is made in the mix where it listens to another', async () => {
    const keyed: Edit = {
      kind: 'set-treatment',
      node: 't0',
      treatment: 'f',
      change: { key: { node: 't1', tap: 'after-fader', as: 'mono' } },
    }
    const session = sessionOf(2, add('t0', 'follow', 'f'), keyed)
    const { ask, ran } = asking(session, { spectrogram: new Float32Array() })
    await ask.spectrogram({ node: 't0', side: 'treated', ...VIEW, stretch: wholeOf(session) })
    expect((ran()[0][1].sound as { of: string }).of).toBe('mix')
  })

  it('is not answered where audio is missing, or there is no session', async () => {
    const gone = asking(sessionOf(2), {}, [audio(0, 2).hash])
    expect(await gone.ask.profile({ of: { node: 't0' }, title })).toBeNull()
    expect(await gone.ask.pair({ tracks: ['t1', 't0'] })).toBeNull()
    expect(await gone.ask.lineUp({ lead: 't1', other: 't0', range: LOWS })).toBeNull()
    expect(await gone.ask.crossoverSum({ node: 't0', spec })).toBeNull()
    expect(gone.run).not.toHaveBeenCalled()
    const none = asking(null, {})
    expect(await none.ask.tempo()).toBeNull()
    expect(await none.ask.yielding({ key: 't0', yielding: 't1' })).toBeNull()
    expect(none.run).not.toHaveBeenCalled()
  })
})

describe('how much is listened to', () => {
  it('is the middle minute for what a minute tells', async () => {
    const { ask, ran } = asking(sessionOf(5), {
      tempo: { beatsPerMinute: 84 },
      crossoverSum: { flatWithinDb: 0, nullDb: null },
    })
    expect(await ask.tempo()).toEqual({ beatsPerMinute: 84 })
    await ask.crossoverSum({ node: 't0', spec })
    for (const [, input] of ran()) {
      const stretch = input.stretch as { fromFrame: number; toFrame: number }
      expect(seconds(stretch)).toBe(60)
      expect(stretch.fromFrame).toBe(120 * RATE)
    }
  })

  it('is the beginning of the passage for two tracks added up, less for ways that are tried', async () => {
    const passage = { fromFrame: 60 * RATE, toFrame: 200 * RATE }
    const session = sessionOf(
      5,
      { kind: 'set-session', change: { passage } },
      { kind: 'set-node', node: 't1', change: { faderDb: -6 } },
    )
    const { ask, ran } = asking(session, { pair: {}, yielding: {}, lineUp: { lineUp: null } })
    await ask.pair({ tracks: ['t0', 't1'] })
    await ask.yielding({ key: 't0', yielding: 't1' })
    expect(await ask.lineUp({ lead: 't0', other: 't1', range: LOWS })).toEqual({ lineUp: null })
    expect(ran()[2][1].range).toEqual(LOWS)
    const stretches = ran().map(([, i]) => i.stretch as { fromFrame: number; toFrame: number })
    expect(stretches.map((s) => s.fromFrame / RATE)).toEqual([60, 60, 60])
    expect(stretches.map(seconds)).toEqual([30, 16, 30])
    const [{ gain: first }, { gain: second }] = ran()[0][1].tracks as { gain: number }[]
    expect([first, second]).toEqual([1, expect.closeTo(0.501, 3)])
  })

  it.each([
    ['to the emptier side', [0, 0, -0.5, 0.2], 'right'],
    ['nowhere where either stands aside already', [0, 0.1, -0.5, 0.2], null],
    ['nowhere where the key does', [0.3, 0, -0.5, 0.2], null],
  ])('puts what yields %s', async (_, pans, aside) => {
    const placed = pans.map(
      (pan, i): Edit => ({ kind: 'set-node', node: `t${i}`, change: { pan } }),
    )
    const { ask, ran } = asking(sessionOf(2, ...placed), { yielding: {} })
    await ask.yielding({ key: 't0', yielding: 't1' })
    expect(ran()[0][1].aside).toBe(aside)
  })

  it.each(['bass', 'drums'] as const)('leaves %s in the middle', async (role) => {
    const { ask, ran } = asking(sessionOf(2, { kind: 'set-node', node: 't1', change: { role } }), {
      yielding: {},
    })
    await ask.yielding({ key: 't0', yielding: 't1' })
    expect(ran()[0][1].aside).toBeNull()
  })

  it('is a reference as a whole, and a track over the passage', async () => {
    const passage = { fromFrame: 0, toFrame: 10 * RATE }
    const session = sessionOf(5, { kind: 'set-session', change: { passage } })
    const { ask, ran } = asking(session, { profile: 'a profile' })
    expect(await ask.profile({ of: { reference: 'r' }, title })).toBe('a profile')
    await ask.profile({ of: { node: 't0' }, title })
    expect(await ask.profile({ of: { reference: 'none' }, title })).toBeNull()
    expect(ran().map(([, i]) => seconds(i.stretch))).toEqual([240, 10])
  })
})

describe('with and without', () => {
  it('reads the low end behind the chain, and behind it less one treatment', async () => {
    const session = sessionOf(2, add('t0', 'low-middle', 'l'), add('t0', 'leveller', 'v'))
    const { ask, ran } = asking(session, { lowEnd: 'both' })
    expect(await ask.lowEnd({ node: 't0', treatment: 'l', hz: 120 })).toBe('both')
    const [[, input]] = ran()
    expect([input.without, input.sound].map(treatmentsOf)).toEqual([['v'], ['l', 'v']])
  })

  it('runs a leveller on what comes to it, and says nothing of one that is gone', async () => {
    const session = sessionOf(2, add('t0', 'low-middle', 'l'), add('t0', 'leveller', 'v'))
    const { ask, ran } = asking(session, { levelled: 'levelled' })
    expect(await ask.levelled({ node: 't0', treatment: 'v' })).toBe('levelled')
    const [[, input, options]] = ran()
    expect(treatmentsOf(input.sound)).toEqual(['l'])
    // It can wait for what is looked at.
    expect(options.first).toBe(false)
    expect(await ask.levelled({ node: 't0', treatment: 'l' })).toBeNull()
    expect(await ask.levelled({ node: 't0', treatment: 'none' })).toBeNull()
  })
})

describe('what is known of the mix itself', () => {
  it('is asked once while nothing changes, and again when the first one gave it up', async () => {
    let given = 0
    const session = sessionOf(2)
    const { ask, run } = asking(session, {})
    run.mockImplementation(async () => {
      given++
      if (given === 1) throw new DOMException('Cancelled.', 'AbortError')
      return 'taps'
    })
    expect(await ask.source({ node: 'mix' })).toBe('taps')
    expect(await ask.source({ node: 'mix' })).toBe('taps')
    expect(given).toBe(2)
  })

  it('finds the passage in the whole', async () => {
    const passage = { fromFrame: 0, toFrame: 10 * RATE }
    const session = sessionOf(5, { kind: 'set-session', change: { passage } })
    const { ask, ran } = asking(session, { passage: 'found' })
    expect(await ask.passage({ seconds: 20 })).toBe('found')
    const [[, input]] = ran()
    expect(seconds(input.stretch)).toBe(300)
    expect(input.chosen).toEqual(passage)
  })
})
