import { applyEdits, type Edit, emptySession, type Session } from '@sober-prism/core/session'
import { newTreatment } from '@sober-prism/core/treatments'
import { describe, expect, it, vi } from 'vitest'
import { Questions } from './questions'

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
  const ask = new Questions({ run } as never, { find } as never, () => session)
  const ran = () => run.mock.calls as unknown as Ran[]
  return { ask, ran, run }
}
const signal = new AbortController().signal
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
    const { ask, ran } = asking(sessionOf(2), { spectrogram: { levels: new Float32Array(4) } })
    const view = { stretch: { fromFrame: 0, toFrame: RATE } } as never
    expect(await ask.spectrogram('t0', 'recorded', view, { signal })).toHaveLength(4)
    await ask.spectrogram('t0', 'treated', view, { signal })
    await ask.spectrogram('mix', 'treated', view, { signal })
    expect(ran().map(([, input]) => (input.sound as { of: string }).of)).toEqual([
      'chain',
      'chain',
      'mix',
    ])
    expect(ran().every(([, , options]) => options.first === true)).toBe(true)
  })

  it('is how loud it is, at its trim, asked once for one state of it', async () => {
    const session = sessionOf(2, { kind: 'change-trim', node: 't0', db: -7 })
    const { ask, ran } = asking(session, { trackLoudness: { lufs: -31 } })
    expect(await ask.trackLoudness('t0')).toBe(-31)
    expect(await ask.trackLoudness('t0')).toBe(-31)
    expect(ran()).toHaveLength(1)
    expect(ran()[0][1]).toMatchObject({ chain: { trimDb: -7 } })
  })

  it('is made in the mix where it listens to another', async () => {
    const keyed: Edit = {
      kind: 'set-treatment',
      node: 't0',
      treatment: 'f',
      change: { key: { node: 't1', tap: 'after-fader', as: 'mono' } },
    }
    const session = sessionOf(2, add('t0', 'follow', 'f'), keyed)
    const { ask, ran } = asking(session, { spectrogram: { levels: new Float32Array() } })
    await ask.spectrogram('t0', 'treated', { stretch: null } as never, { signal })
    expect((ran()[0][1].sound as { of: string }).of).toBe('mix')
  })

  it('is not answered where audio is missing, or there is no session', async () => {
    const gone = asking(sessionOf(2), {}, [audio(0, 2).hash])
    expect(await gone.ask.profile({ node: 't0' }, {} as never, { signal })).toBeNull()
    expect(await gone.ask.pair(['t1', 't0'], signal)).toBeNull()
    expect(await gone.ask.lineUp('t1', 't0', { fromHz: 40, toHz: 400 }, signal)).toBeNull()
    expect(await gone.ask.crossoverSum('t0', {} as never, signal)).toBeNull()
    expect(gone.run).not.toHaveBeenCalled()
    const none = asking(null, {})
    expect(await none.ask.tempo(signal)).toBeNull()
    expect(await none.ask.proposeYielding('t0', 't1', { signal })).toBeNull()
    expect(none.run).not.toHaveBeenCalled()
  })
})

describe('how much is listened to', () => {
  it('is the middle minute for what a minute tells', async () => {
    const { ask, ran } = asking(sessionOf(5), {
      tempo: { tempo: { beatsPerMinute: 84 } },
      crossoverSum: { flatWithinDb: 0, nullDb: null },
    })
    expect(await ask.tempo(signal)).toEqual({ beatsPerMinute: 84 })
    await ask.crossoverSum('t0', {} as never, signal)
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
    await ask.pair(['t0', 't1'], signal)
    await ask.proposeYielding('t0', 't1', { signal })
    const lows = { fromHz: 40, toHz: 400 }
    expect(await ask.lineUp('t0', 't1', lows, signal)).toEqual({ found: null, picture: undefined })
    expect(ran()[2][1].range).toEqual(lows)
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
    await ask.proposeYielding('t0', 't1', { signal })
    expect(ran()[0][1].aside).toBe(aside)
  })

  it.each(['bass', 'drums'] as const)('leaves %s in the middle', async (role) => {
    const { ask, ran } = asking(sessionOf(2, { kind: 'set-node', node: 't1', change: { role } }), {
      yielding: {},
    })
    await ask.proposeYielding('t0', 't1', { signal })
    expect(ran()[0][1].aside).toBeNull()
  })

  it('is a reference as a whole, and a track over the passage', async () => {
    const passage = { fromFrame: 0, toFrame: 10 * RATE }
    const session = sessionOf(5, { kind: 'set-session', change: { passage } })
    const { ask, ran } = asking(session, { profile: { profile: 'a profile' } })
    expect(await ask.profile({ reference: 'r' }, {} as never, { signal })).toBe('a profile')
    await ask.profile({ node: 't0' }, {} as never, { signal })
    expect(await ask.profile({ reference: 'none' }, {} as never, { signal })).toBeNull()
    expect(ran().map(([, i]) => seconds(i.stretch))).toEqual([240, 10])
  })
})

describe('with and without', () => {
  it('reads the low end behind the chain, and behind it less one treatment', async () => {
    const session = sessionOf(2, add('t0', 'low-middle', 'l'), add('t0', 'leveller', 'v'))
    const { ask, ran } = asking(session, { lowEnd: { reading: 'a reading' } })
    const read = await ask.lowEnd('t0', 'l', 120, signal)
    expect(read).toEqual({ before: 'a reading', after: 'a reading' })
    const chains = ran().map(([, i]) =>
      (i.sound as { chain: { treatments: { id: string }[] } }).chain.treatments.map((t) => t.id),
    )
    expect(chains).toEqual([['v'], ['l', 'v']])
  })

  it('runs a leveller on what comes to it, and says nothing of one that is gone', async () => {
    const session = sessionOf(2, add('t0', 'low-middle', 'l'), add('t0', 'leveller', 'v'))
    const { ask, ran } = asking(session, { levelled: 'levelled' })
    const options = { signal }
    expect(await ask.levelled('t0', 'v', options)).toMatchObject({ levelled: 'levelled' })
    const [[, input]] = ran()
    const { chain } = input.sound as { chain: { treatments: { id: string }[] } }
    expect(chain.treatments.map((t) => t.id)).toEqual(['l'])
    expect(await ask.levelled('t0', 'l', options)).toBeNull()
    expect(await ask.levelled('t0', 'none', options)).toBeNull()
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
      return { reading: 'taps' }
    })
    expect(await ask.source('mix', signal)).toBe('taps')
    expect(await ask.source('mix', signal)).toBe('taps')
    expect(given).toBe(2)
  })

  it('finds the passage in the whole', async () => {
    const passage = { fromFrame: 0, toFrame: 10 * RATE }
    const session = sessionOf(5, { kind: 'set-session', change: { passage } })
    const { ask, ran } = asking(session, { passage: 'found' })
    expect(await ask.passage(20, { signal })).toBe('found')
    const [[, input]] = ran()
    expect(seconds(input.stretch)).toBe(300)
    expect(input.chosen).toEqual(passage)
  })
})
