import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { BAND_LIMITS, CHANNEL_MODES, type EqBand, FILTER_TYPES } from '../filters'
import { type ChainBand, newTreatment } from '../treatments'
import {
  checkSession,
  DocumentError,
  emptySession,
  freeLetter,
  newTrack,
  parseChainFile,
  parseEqFile,
  parseSession,
  placeOnTimeLine,
  ROLES,
  SESSION_VERSION,
  type Session,
  writeChainFile,
  writeEqFile,
  writeSession,
} from './index'

const number = (low: number, high: number) =>
  fc.double({ min: low, max: high, noNaN: true }).map((v) => (Object.is(v, -0) ? 0 : v))
const within = ([low, high]: readonly [number, number]) => number(low, high)

const bands: fc.Arbitrary<EqBand> = fc.record({
  type: fc.constantFrom(...FILTER_TYPES),
  hz: within(BAND_LIMITS.hz),
  db: within(BAND_LIMITS.db),
  q: within(BAND_LIMITS.q),
  slopeDbPerOct: fc.integer({ min: 1, max: 16 }).map((n) => 6 * n),
  channel: fc.constantFrom(...CHANNEL_MODES),
})
const marks: fc.Arbitrary<ChainBand> = fc.record({
  id: fc.uuid(),
  on: fc.boolean(),
  band: bands,
  reason: fc.string({ maxLength: 100 }),
  evidence: fc.constant(null),
})
const sessions: fc.Arbitrary<Session> = fc
  .record({
    name: fc.string({ maxLength: 60 }),
    tracks: fc.array(
      fc.record({
        name: fc.string({ maxLength: 60 }),
        role: fc.constantFrom(...ROLES),
        faderDb: number(-120, 12),
        pan: number(-1, 1),
        frames: fc.integer({ min: 1, max: 1e9 }),
        marks: fc.array(marks, { maxLength: 4 }),
      }),
      { maxLength: 6 },
    ),
    from: fc.integer({ min: 0, max: 1e6 }),
    length: fc.integer({ min: 1, max: 1e6 }),
  })
  .map(({ name, tracks, from, length }) => {
    const session = emptySession('s', name, '2026-03-04T05:06:07.000Z', 48000)
    for (const [i, t] of tracks.entries()) {
      const audio = { hash: 'a'.repeat(64), channels: 2, frames: t.frames }
      const track = newTrack(`t${i}`, t.name, t.role, freeLetter(session.tracks), audio)
      Object.assign(track, { faderDb: t.faderDb, pan: t.pan })
      track.chain.treatments = [
        newTreatment('equaliser', 'e', 'fit', { phase: 'linear', bands: t.marks }),
        newTreatment('low-middle', 'l', 'shape'),
      ]
      session.tracks.push(track)
    }
    session.passage = { fromFrame: from, toFrame: from + length }
    session.leadIds = session.tracks.slice(0, 1).map((t) => t.id)
    return session
  })

/** A document as the code of its time wrote it. */
function frozen(version: number): Session {
  const file = join(import.meta.dirname, 'frozen', `version-${version}.json`)
  return parseSession(readFileSync(file, 'utf8'))
}

/** All places of a document, as paths of keys. */
function paths(value: unknown, path: (string | number)[] = []): (string | number)[][] {
  if (value === null || typeof value !== 'object') return [path]
  const entries = Array.isArray(value) ? [...value.entries()] : Object.entries(value)
  return [path, ...entries.flatMap(([key, inner]) => paths(inner, [...path, key]))]
}

/** A session in which a low end is made of both channels, by the path of what says so. */
function withBoth(session: Session, path: readonly (string | number)[]): Session {
  const made = structuredClone(session)
  const params = path.slice(0, -1).reduce<unknown>((o, k) => (o as never)[k], made)
  ;(params as { from: string }).from = 'both'
  return made
}

describe('the session document', () => {
  it('comes back from its file as it was', () => {
    fc.assert(
      fc.property(sessions, (session) => {
        expect(parseSession(writeSession(session))).toEqual(session)
      }),
    )
  })

  it('refuses anything spoiled, and names the place', () => {
    fc.assert(
      fc.property(
        sessions,
        fc.nat(),
        fc.constantFrom('NaN', 'symbol', 'gone'),
        (session, pick, how) => {
          const places = paths(session).filter((p) => p.length > 0)
          const path = places[pick % places.length]
          const spoiled = structuredClone(session) as unknown as Record<string, unknown>
          const owner = path.slice(0, -1).reduce<unknown>((o, k) => (o as never)[k], spoiled)
          const key = path[path.length - 1]
          if (how === 'gone') {
            if (Array.isArray(owner)) return
            delete (owner as Record<string, unknown>)[key as string]
            if (path.at(-1) === 'from' && path.at(-2) === 'params') {
              // The first files of version 10 were written without it.
              expect(checkSession(spoiled)).toEqual(withBoth(session, path))
              return
            }
          } else {
            ;(owner as Record<string | number, unknown>)[key] =
              how === 'NaN' ? Number.NaN : { odd: 1 }
          }
          let message = ''
          try {
            checkSession(spoiled)
          } catch (error) {
            expect(error).toBeInstanceOf(DocumentError)
            message = (error as Error).message
          }
          expect(message).toContain('cannot be read')
          expect(message).toContain(String(path[0]))
        },
      ),
    )
  })

  it('never fails in any other way on any JSON', () => {
    fc.assert(
      fc.property(fc.json(), (text) => {
        try {
          parseSession(text)
        } catch (error) {
          expect(error).toBeInstanceOf(DocumentError)
        }
      }),
    )
  })

  it('brings version 1 up to date: its one lead, and what its moves were made for', () => {
    const session = frozen(1)
    expect(session.leadIds).toEqual(['mix-1'])
    expect(session.dismissed).toEqual([])
    const [equaliser] = session.tracks[1].chain.treatments
    expect(equaliser.kind === 'equaliser' && equaliser.params.bands[0].evidence).toEqual({
      findingKey: 'masking mix singer 2000',
      measure: { of: 'heard', track: 'singer' },
      before: 0.31,
      predicted: 0.44,
    })
  })

  it('brings version 3 up to date: it was listened to over loudspeakers', () => {
    const session = frozen(3)
    expect(session.listening).toBe('speakers')
    expect(session.tracks.map((t) => t.name)).toEqual(frozen(2).tracks.map((t) => t.name))
  })

  it('opens version 4 as it was', () => {
    const session = frozen(4)
    expect([session.version, session.listening]).toEqual([SESSION_VERSION, 'headphones'])
    const drawn = session.tracks[0].chain.treatments.at(-1)
    expect(drawn).toMatchObject({
      kind: 'drawn-curve',
      reason: 'Through the wall',
      params: { taps: 4096 },
    })
  })

  it('opens version 5 as it was', () => {
    const session = frozen(5)
    expect(session.version).toBe(SESSION_VERSION)
    const [follow, duck] = session.tracks[2].chain.treatments.filter((t) => t.key !== null)
    expect(follow).toMatchObject({ kind: 'follow', params: { bands: [{ id: 'b' }] } })
    expect(duck).toMatchObject({
      kind: 'duck',
      key: { node: 'singer', tap: 'after-fader', as: 'mono' },
      reason: 'Room for the words',
    })
  })

  it('opens version 6 with what it matches and shapes, and no passage by name', () => {
    const session = frozen(6)
    expect([session.version, session.passages]).toEqual([SESSION_VERSION, []])
    const kinds = session.tracks.flatMap((t) => t.chain.treatments.map((x) => x.kind))
    for (const kind of ['match', 'broad-strokes', 'drive', 'leveller'])
      expect(kinds).toContain(kind)
  })

  it('opens version 7 with its passages by name and what its mix is brought to', () => {
    const session = frozen(7)
    expect(session.version).toBe(SESSION_VERSION)
    expect(session.passages).toEqual([
      { id: 'chorus', name: 'Chorus', fromFrame: 48_000, toFrame: 144_000 },
    ])
    expect(session.normalise).toEqual({ to: 'loudness', lufs: -16, dbtp: -1 })
  })

  it('opens version 8 with the bands it parts a sound into', () => {
    const session = frozen(8)
    expect(session.version).toBe(SESSION_VERSION)
    const [track] = session.tracks
    expect(track.chain.treatments.at(-1)).toMatchObject({ kind: 'split', reason: 'Three bands' })
    expect(session.passages).toEqual(frozen(7).passages)
  })

  it('opens version 10 without variations, and otherwise as it was', () => {
    const session = frozen(10)
    expect([session.version, session.name]).toEqual([SESSION_VERSION, 'Version ten'])
    expect([session.variations, session.blindTests]).toEqual([{ list: [], chains: {} }, []])
    expect(session.tracks[0].trimDb).toBe(-3)
    expect(session.tracks.slice(1)).toEqual(frozen(9).tracks.slice(1))
  })

  it('opens version 9 with working levels ahead of chains, where that changes nothing of the sound', () => {
    const session = frozen(9)
    expect(session.version).toBe(SESSION_VERSION)
    const levels = [...session.tracks, ...session.groups, session.mix].map((n) => [
      n.trimDb,
      n.chain.output.gainDb,
    ])
    // The singer's leveller, and what follows the drum's key, go by level.
    expect(levels).toEqual([
      [0, 6],
      [-7, 0],
      [0, 0],
      [-2, 0],
      [1, 0],
    ])
    expect(session.tracks[2].chain.output.polarity).toBe('inverted')
  })

  it('brings version 2 up to date: one equaliser per stage, and no track called like the mix', () => {
    const session = frozen(2)
    expect(session.leadIds).toEqual(['mix-1', 'singer'])
    expect(session.dismissed).toHaveLength(1)
    expect(session.tracks.map((t) => [t.id, t.output])).toEqual([
      ['singer', 'mix'],
      ['mix-1', 'mix'],
      ['drum', 'mix'],
    ])
    const [singer, keys, drum] = session.tracks
    expect(keys.chain.treatments).toMatchObject([
      {
        stage: 'fit',
        kind: 'equaliser',
        on: true,
        params: {
          phase: 'linear',
          bands: [
            { id: 'm1', on: true, band: { hz: 2000, db: -3.5 }, reason: 'covers the singer' },
            { id: 'm2', on: false },
          ],
        },
      },
      { stage: 'shape', on: false, params: { bands: [{ id: 'm3', reason: 'air' }] } },
    ])
    expect(singer.trimDb).toBe(1.5)
    expect([drum.offsetFrames, drum.chain.output.polarity]).toEqual([-480, 'inverted'])
    expect(session.mix.chain.treatments).toMatchObject([
      { stage: 'shape', params: { phase: 'mixed' } },
    ])
  })

  it('tells a newer version, broken JSON, a lead that is not there, and two tracks of one id', () => {
    const session = emptySession('s', 'n', '2026-03-04T05:06:07.000Z', 48000)
    const audio = { hash: 'b'.repeat(64), channels: 1, frames: 10 }
    const track = newTrack('t', 'T', 'other', 'A', audio)
    expect(() => checkSession({ ...session, version: 99 })).toThrow(/newer version \(99\)/)
    expect(() => parseSession('{"version":1')).toThrow(/not JSON/)
    const called = newTrack('mix', 'T', 'other', 'A', audio)
    expect(() => checkSession({ ...session, tracks: [called] })).toThrow(/called "mix"/)
    expect(() => checkSession({ ...session, leadIds: ['x'] })).toThrow(/leadIds.*no track/)
    expect(() => checkSession({ ...session, tracks: [track, track] })).toThrow(
      /tracks\[1\]\.id.*same id/,
    )
  })
})

describe('a chain file', () => {
  it('comes back from its text with the values of its kinds', () => {
    fc.assert(
      fc.property(
        fc.array(marks, { maxLength: 3 }),
        fc.double({ min: 20, max: 1000, noNaN: true }),
        (list, hz) => {
          const chain = [
            newTreatment('align', 'a', 'clean', { delayFrames: 2.5, polarity: -1, turnDeg: 12 }),
            newTreatment('equaliser', 'e', 'fit', { phase: 'mixed', bands: list }),
            newTreatment('low-middle', 'l', 'shape', { hz, slopeDbPerOct: 36, from: 'left' }),
          ]
          const text = writeChainFile(chain)
          expect(writeChainFile(parseChainFile(text))).toBe(text)
        },
      ),
    )
  })

  it.each([
    ['{"version":2,"treatments":[]}', 'version'],
    [
      '{"version":1,"treatments":[{"kind":"wobble","stage":"fit","on":true,"params":{}}]}',
      'treatments[0].kind',
    ],
    [
      '{"version":1,"treatments":[{"kind":"low-middle","stage":"fit","on":true,"params":{"hz":5,"slopeDbPerOct":24}}]}',
      'treatments[0].params.hz',
    ],
    [
      '{"version":1,"treatments":[{"kind":"align","stage":"shape","on":true,"params":{}},{"kind":"align","stage":"fit","on":true,"params":{}}]}',
      'treatments[1]',
    ],
    ['{"version":1}', 'treatments'],
  ])('refuses %s by the path %s', (text, path) => {
    expect(() => parseChainFile(text)).toThrow(DocumentError)
    expect(() => parseChainFile(text)).toThrow(path)
  })
})

describe('an EQ file', () => {
  it('comes back from its text with every value its type has', () => {
    fc.assert(
      fc.property(fc.array(bands, { maxLength: 12 }), (list) => {
        const text = writeEqFile(list)
        expect(writeEqFile(parseEqFile(text))).toBe(text)
      }),
    )
  })

  it.each([
    ['{"version":2,"bands":[]}', 'version'],
    ['{"version":1,"bands":[{"type":"bell","hz":1000,"q":1}]}', 'bands[0].db'],
    ['{"version":1,"bands":[{"type":"bell","hz":1000,"db":null,"q":1}]}', 'bands[0].db'],
    ['{"version":1,"bands":[{"type":"bell","hz":0,"db":3,"q":1}]}', 'bands[0].hz'],
    ['{"version":1,"bands":[{"type":"bell","hz":1000,"db":3,"q":1,"gain":2}]}', 'bands[0]'],
    ['{"version":1,"bands":[{"type":"low-cut","hz":80,"slopeDbPerOct":20}]}', 'slopeDbPerOct'],
    ['{"version":1,"bands":[{"type":"wobble","hz":80}]}', 'bands[0].type'],
    ['{"version":1}', 'bands'],
  ])('refuses %s by the path %s', (text, path) => {
    expect(() => parseEqFile(text)).toThrow(DocumentError)
    expect(() => parseEqFile(text)).toThrow(path)
  })

  it('fills in what may be left out', () => {
    const [cut] = parseEqFile(
      '{"version":1,"bands":[{"type":"low-cut","hz":80,"slopeDbPerOct":24}]}',
    )
    expect(cut).toMatchObject({ channel: 'stereo', q: Math.SQRT1_2, slopeDbPerOct: 24 })
  })
})

describe('the time line', () => {
  const at = (timeOriginSeconds: number | null, stamp: number | null) =>
    placeOnTimeLine({ timeOriginSeconds, sampleRateHz: 48000 }, stamp)

  it('starts with the first stamped recording and moves for an earlier one', () => {
    expect(at(null, 3600)).toEqual({
      offsetFrames: 0,
      moveOthersFrames: 0,
      timeOriginSeconds: 3600,
    })
    expect(at(3600, 3602.5).offsetFrames).toBe(120000)
    expect(at(3600, 3599)).toEqual({
      offsetFrames: 0,
      moveOthersFrames: 48000,
      timeOriginSeconds: 3599,
    })
    expect(at(3600, null)).toEqual({
      offsetFrames: 0,
      moveOthersFrames: 0,
      timeOriginSeconds: 3600,
    })
  })
})
