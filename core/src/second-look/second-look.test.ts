import { describe, expect, it } from 'vitest'
import { type EqBand, magnitudeDb, newBand } from '../filters'
import { LEVEL_BANDS } from '../findings'
import { applyEdits, type Edit, type Session } from '../session'
import { sessionOf } from '../testing/sessions'
import { newChainBand, newTreatment } from '../treatments'
import { type LookInput, secondLook } from './index'

const RATE = 48_000
const calibration = { lufs: -23, dbSpl: 73 }
/** Steady noise that falls by 4.5 dB per octave, at about -26 dB; nothing above 8 kHz where asked. */
const spectrum = (topHz = 20_000) =>
  Float64Array.from(LEVEL_BANDS, ({ hz }) => (hz > topHz ? -140 : -38 - 1.5 * Math.log2(hz / 100)))

let count = 0
const band = (node: string, change: Partial<EqBand>, treatment: string | null = null): Edit => {
  const id = `b${++count}`
  const made = { ...newBand(change.type ?? 'bell', change.hz ?? 1000), ...change }
  return {
    kind: 'add-band',
    node,
    stage: 'shape',
    treatment,
    newTreatment: `e${id}`,
    chainBand: newChainBand(id, made),
  }
}
const started = (...edits: Edit[]) =>
  applyEdits(sessionOf(['voice', 'tuba', 'drum']), [
    { kind: 'set-node', node: 'voice', change: { role: 'voice' } },
    ...edits,
  ])

/** What is told, where every node sounds like the spectrum with its own bands in. */
function looks(session: Session, more: Partial<LookInput> = {}, topHz?: number) {
  const levelsOf = (node: string) => {
    const chain = [...session.tracks, ...session.groups].find((n) => n.id === node)?.chain
    const bands = (chain ?? session.mix.chain).treatments.flatMap((t) =>
      t.kind === 'equaliser' && t.on ? t.params.bands.filter((b) => b.on).map((b) => b.band) : [],
    )
    const change = magnitudeDb(
      bands,
      LEVEL_BANDS.map((b) => b.hz),
      RATE,
    )
    return spectrum(topHz).map((v, i) => v + change[i])
  }
  const none = new Map<string, number>()
  return secondLook({ session, levelsOf, heard: none, heardBare: none, calibration, ...more })
}
const kinds = (session: Session, more?: Partial<LookInput>, topHz?: number) =>
  looks(session, more, topHz).map((l) => l.kind)

describe('a second look', () => {
  it('is silent at ordinary moves', () => {
    const session = started(
      band('voice', { type: 'low-cut', hz: 90, slopeDbPerOct: 24 }),
      band('voice', { hz: 350, db: -3, q: 1.2 }),
      band('voice', { hz: 3500, db: 2.5, q: 0.8 }),
      band('voice', { type: 'high-shelf', hz: 11_000, db: 3 }),
      band('tuba', { hz: 90, db: 4, q: 0.9 }),
      band('drum', { hz: 420, db: -7, q: 1.5 }),
      band('mix', { type: 'high-shelf', hz: 9000, db: 1 }),
    )
    expect(looks(session)).toEqual([])
  })

  it('sees a broad boost of more than 6 dB, of more than 5 on a voice, and halves it', () => {
    const session = started(
      band('tuba', { hz: 300, db: 8, q: 0.7 }),
      band('voice', { hz: 1500, db: 5.5, q: 1 }),
    )
    expect(kinds(session)).toEqual(['large-boost', 'large-boost'])
    const [look] = looks(session)
    const made = applyEdits(session, look.answer?.edits ?? [])
    expect(kinds(made)).toEqual(['large-boost'])
    // A narrow one, and one that is off, are none.
    const narrow = started(
      band('tuba', { hz: 300, db: 8, q: 4 }),
      band('tuba', { hz: 300, db: 6, q: 1 }),
    )
    expect(kinds(narrow)).toEqual([])
  })

  it('sees a boost where the source has nothing', () => {
    const session = started(band('tuba', { type: 'high-shelf', hz: 12_000, db: 3 }))
    expect(kinds(session, {}, 8000)).toEqual(['nothing-there'])
    expect(kinds(session)).toEqual([])
    const [look] = looks(session, {}, 8000)
    expect(kinds(applyEdits(session, look.answer?.edits ?? []), {}, 8000)).toEqual([])
  })

  it('sees a boost in the range of sibilants on a voice, and there alone', () => {
    const boost = { hz: 6000, db: 4.5, q: 1 }
    expect(kinds(started(band('voice', boost)))).toEqual(['sibilant-boost'])
    expect(kinds(started(band('tuba', boost)))).toEqual([])
    expect(kinds(started(band('voice', { ...boost, db: 2 })))).toEqual([])
  })

  it('sees what nobody hears, and takes it out', () => {
    const session = started(
      band('tuba', { hz: 15_000, db: -6, q: 6 }),
      band('tuba', { hz: 200, db: -3, q: 1 }),
    )
    const found = looks(session, {}, 8000)
    expect(found.map((l) => l.kind)).toEqual(['not-heard'])
    expect(found[0].evidence).toMatch(/^0\.0\d sone/)
    const made = applyEdits(session, found[0].answer?.edits ?? [])
    expect(
      made.tracks[1].chain.treatments.flatMap((t) =>
        t.kind === 'equaliser' ? t.params.bands : [],
      ),
    ).toHaveLength(1)
  })

  it('sees two moves that undo each other, in one chain and behind each other', () => {
    const session = started(
      band('tuba', { hz: 500, db: 4, q: 1 }),
      band('tuba', { hz: 520, db: -3.5, q: 1.2 }),
    )
    const [look] = looks(session)
    expect(look.kind).toBe('undone')
    const made = applyEdits(session, look.answer?.edits ?? [])
    const bands = made.tracks[1].chain.treatments.flatMap((t) =>
      t.kind === 'equaliser' ? t.params.bands.map((b) => b.band.db) : [],
    )
    expect(bands).toEqual([0.5])
    const above = started(
      band('tuba', { hz: 500, db: 4, q: 1 }),
      band('mix', { hz: 500, db: -4, q: 1 }),
    )
    expect(looks(above).map((l) => [l.kind, l.answer])).toEqual([['undone', null]])
    // Another place, another width, more of one than of the other, and another track.
    for (const other of [
      band('tuba', { hz: 900, db: -4, q: 1 }),
      band('tuba', { hz: 500, db: -4, q: 5 }),
      band('tuba', { hz: 500, db: -9, q: 1 }),
      band('drum', { hz: 500, db: -4, q: 1 }),
    ]) {
      expect(kinds(started(band('tuba', { hz: 500, db: 4, q: 1 }), other))).toEqual([])
    }
  })

  it('sees equalisers that could be one, and joins them with the same sound', () => {
    const equaliser = (id: string, hz: number): Edit => ({
      kind: 'add-treatment',
      node: 'tuba',
      treatment: newTreatment('equaliser', id, 'shape', {
        phase: 'minimum',
        bands: [newChainBand('same', { ...newBand('bell', hz), db: -3 })],
      }),
      before: null,
    })
    const session = started(equaliser('one', 200), equaliser('two', 800), equaliser('three', 3000))
    const [look] = looks(session)
    expect(look.kind).toBe('equalisers')
    const made = applyEdits(session, look.answer?.edits ?? [])
    const [only, ...none] = made.tracks[1].chain.treatments
    expect(none).toEqual([])
    expect(only.kind === 'equaliser' && only.params.bands.map((b) => b.band.hz)).toEqual([
      200, 800, 3000,
    ])
    const apart: Edit = {
      kind: 'add-treatment',
      node: 'tuba',
      treatment: newTreatment('drive', 'd', 'shape'),
      before: 'two',
    }
    expect(kinds(started(equaliser('one', 200), equaliser('two', 800), apart))).toEqual([])
  })

  it('sees a lead that lost by the sum of all moves, first of all', () => {
    const session = started(
      { kind: 'set-lead', track: 'voice', lead: true },
      band('tuba', { hz: 300, db: 8, q: 0.7 }),
    )
    const told = (now: number) =>
      kinds(session, { heard: new Map([['voice', now]]), heardBare: new Map([['voice', 0.7]]) })
    expect(told(0.6)).toEqual(['lead-lost', 'large-boost'])
    expect(told(0.69)).toEqual(['large-boost'])
  })

  it('sees many treatments on one track', () => {
    const drives = Array.from(
      { length: 8 },
      (_, i): Edit => ({
        kind: 'add-treatment',
        node: 'drum',
        treatment: newTreatment('drive', `d${i}`, 'shape'),
        before: null,
      }),
    )
    expect(kinds(started(...drives))).toEqual(['many'])
    expect(kinds(started(...drives.slice(1)))).toEqual([])
  })
})

describe('what only makes it louder', () => {
  it('is told, and a gain takes its place', () => {
    const lift = { type: 'low-shelf' as const, hz: 19_000, db: 3 }
    const session = started(band('tuba', lift))
    const found = looks(session, {}, 4000).find((l) => l.kind === 'only-louder')
    expect(found?.evidence).toMatch(/^\+3\.0 dB everywhere/)
    const after = applyEdits(session, [...(found?.answer?.edits ?? [])])
    const { chain } = after.tracks[1]
    expect(chain.treatments).toEqual([])
    expect(chain.output.gainDb).toBeCloseTo(3, 1)
    expect(kinds(after)).toEqual([])
  })

  it('is not told of what has a shape', () => {
    expect(kinds(started(band('tuba', { type: 'low-shelf', hz: 400, db: 3 })))).toEqual([])
  })
})

describe('what the steps tell', () => {
  const set = (session: Session, db: number) => {
    const [treatment] = session.tracks[1].chain.treatments
    if (treatment.kind !== 'equaliser') throw new Error('It is none.')
    const [{ id }] = treatment.params.bands
    return applyEdits(session, [
      {
        kind: 'set-band',
        node: 'tuba',
        treatment: treatment.id,
        band: id,
        change: { band: { db } },
      },
    ])
  }
  const solo = (session: Session, on: boolean) =>
    applyEdits(session, [{ kind: 'set-node', node: 'tuba', change: { solo: on } }])
  const first = started(band('tuba', { hz: 800, db: 2.4, q: 1 }))

  it('names what went to and fro by less than is told apart', () => {
    const past = [first, set(first, 2.7), set(first, 2.5)]
    expect(kinds(set(first, 2.8), { past })).toEqual(['to-and-fro'])
    const found = looks(set(first, 2.8), { past })[0]
    expect(found.evidence).toBe('the last 4 values: +2.4 dB, +2.7 dB, +2.5 dB, +2.8 dB')
  })

  it('is silent where a value went one way, or far', () => {
    expect(kinds(set(first, 2.8), { past: [first, set(first, 2.5), set(first, 2.6)] })).toEqual([])
    expect(kinds(set(first, 2.8), { past: [first, set(first, 4.5), set(first, 2.6)] })).toEqual([])
  })

  it('names a move made while its track was alone, until something is done with the others', () => {
    const alone = solo(first, true)
    const moved = set(alone, 3.2)
    const found = looks(moved, { past: [first, alone] })
    expect(found.map((l) => l.kind)).toEqual(['made-alone'])
    const heard = applyEdits(moved, [...(found[0].answer?.edits ?? [])])
    expect(heard.tracks[1].solo).toBe(false)
    expect(kinds(heard, { past: [first, alone, moved] })).toEqual(['made-alone'])
    const done = set(heard, 3)
    expect(kinds(done, { past: [first, alone, moved, heard] })).toEqual([])
    expect(kinds(set(first, 3), { past: [first] })).toEqual([])
  })

  it('asks for reasons once, where many large moves have none', () => {
    const moves = [200, 500, 1200, 2500, 6000].map((hz, i) =>
      band(['voice', 'tuba', 'drum'][i % 3], { hz, db: -4, q: 1.5 }),
    )
    expect(kinds(started(...moves))).toEqual(['no-reason'])
    expect(kinds(started(...moves.slice(0, 4)))).toEqual([])
  })
})
