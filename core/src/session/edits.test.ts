import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { FILTER_TYPES, newBand } from '../filters'
import { designLater, renderPlan } from '../mix'
import { sortNodes } from '../mix/sort-nodes'
import { sessionOf } from '../testing/sessions'
import { type KindName, newChainBand, newTreatment, STAGES, TREATMENT_KINDS } from '../treatments'
import {
  type AudioRef,
  applyEdits,
  checkSession,
  DocumentError,
  type Edit,
  MOST,
  type Session,
  writeSession,
} from './index'

const nodes = fc.constantFrom('a', 'b', 'c', 'g', 'h', 'mix', 'nobody')
const ids = fc.constantFrom('t1', 't2', 't3', 't4')
const stages = fc.constantFrom(...STAGES)
// A file tells no minus before zero.
const number = (min: number, max: number) => fc.double({ min, max, noNaN: true }).map((v) => v + 0)
const kinds = fc.constantFrom(...(Object.keys(TREATMENT_KINDS) as KindName[]))
const before = fc.option(ids)
const bands = fc
  .tuple(fc.constantFrom(...FILTER_TYPES), number(5, 50_000), number(-40, 30), ids)
  .map(([type, hz, db, id]) => newChainBand(id, { ...newBand(type, hz), db }))

/** Audio with time stamps of all sorts, spoiled ones too, and lengths up to years. */
const arrivals = fc.record({
  id: fc.oneof(fc.constantFrom('a', 'n1', 'n2', 'n3', 'mix'), fc.uuid()),
  name: fc.constant('New'),
  role: fc.constant('other' as const),
  audio: fc.record({
    hash: fc.constant('0'.repeat(64)),
    channels: fc.constantFrom(1, 2),
    frames: fc.oneof(fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 1, max: 2 ** 52 })),
  }),
  timeStampSeconds: fc.option(
    fc.oneof(number(0, 86_400), number(0, Number.MAX_VALUE), fc.constant(Number.MAX_VALUE)),
  ),
})
const stretches = fc
  .tuple(fc.nat(1000), fc.integer({ min: -5, max: 1000 }))
  .map(([fromFrame, length]) => ({ fromFrame, toFrame: fromFrame + length }))
const asReference = ({ id, name, audio }: { id: string; name: string; audio: AudioRef }) => ({
  id,
  name,
  audio,
})

/** Edits of all kinds, sensible or not: values out of range, things that are not there, rings. */
const edits: fc.Arbitrary<Edit> = fc.oneof(
  fc.record({
    kind: fc.constant('set-session' as const),
    change: fc.record(
      {
        name: fc.string({ maxLength: 12 }),
        loop: fc.boolean(),
        listeningDbSpl: number(40, 100),
        passage: fc.option(stretches),
      },
      { requiredKeys: [] },
    ),
  }),
  fc.record({
    kind: fc.constant('add-group' as const),
    id: fc.constantFrom('g', 'h', 'a', 'mix'),
    name: fc.constant('G'),
    members: fc.array(nodes, { maxLength: 3 }),
  }),
  fc.array(arrivals, { maxLength: 3 }).map((tracks): Edit => ({ kind: 'add-tracks', tracks })),
  fc
    .array(arrivals, { maxLength: 30 })
    .map((list): Edit => ({ kind: 'add-references', references: list.map(asReference) })),
  fc.record({ kind: fc.constant('remove-reference' as const), reference: ids }),
  fc.record({
    kind: fc.constant('set-reference' as const),
    reference: ids,
    change: fc.record(
      {
        name: fc.string({ maxLength: 8 }),
        passage: fc.option(stretches),
      },
      { requiredKeys: [] },
    ),
  }),
  fc.tuple(ids, fc.string({ maxLength: 3 }), fc.nat(1000), fc.integer({ min: -5, max: 1000 })).map(
    ([id, name, fromFrame, length]): Edit => ({
      kind: 'add-passage',
      passage: { id, name, fromFrame, toFrame: fromFrame + length },
    }),
  ),
  fc.record({
    kind: fc.constant('name-passage' as const),
    passage: ids,
    name: fc.string({ maxLength: 3 }),
  }),
  fc.record({ kind: fc.constant('remove-passage' as const), passage: ids }),
  fc.record({ kind: fc.constant('remove-node' as const), node: nodes }),
  fc.record({
    kind: fc.constant('keep-variation' as const),
    id: ids,
    name: fc.string({ maxLength: 3 }),
    keptAt: fc.constantFrom('2026-05-06T07:08:09.000Z', 'then'),
  }),
  fc
    .record({
      id: ids,
      trials: fc.integer({ min: 0, max: 8 }),
      answers: fc.array(fc.constantFrom('first' as const, 'second' as const), { maxLength: 9 }),
    })
    .map((test): Edit => {
      const state = { id: 't1', name: 'One', state: 'x' }
      const fixed = { kind: 'which', first: state, second: state, seed: 3 } as const
      return {
        kind: 'keep-blind-test',
        test: { ...test, ...fixed, beganAt: '2026-05-06T07:08:09.000Z' },
      }
    }),
  fc.record({ kind: fc.constant('remove-blind-test' as const), test: ids }),
  fc.record({
    kind: fc.constantFrom('work-in-variation' as const, 'remove-variation' as const),
    variation: ids,
  }),
  fc.record({
    kind: fc.constant('set-variation' as const),
    variation: ids,
    change: fc.record({ name: fc.string({ maxLength: 3 }), note: fc.string({ maxLength: 9 }) }),
  }),
  fc.record({
    kind: fc.constant('take-from-variation' as const),
    variation: fc.oneof(ids, fc.constant('as-it-came')),
    node: nodes,
  }),
  fc.record({ kind: fc.constant('set-output' as const), node: nodes, output: nodes }),
  fc.record({
    kind: fc.constant('set-node' as const),
    node: nodes,
    change: fc.record(
      {
        trimDb: number(-50, 26),
        faderDb: number(-130, 20),
        pan: number(-1.2, 1.2),
        mute: fc.boolean(),
      },
      { requiredKeys: [] },
    ),
  }),
  fc.record({ kind: fc.constant('order-track' as const), track: nodes, to: fc.integer() }),
  fc.record({ kind: fc.constant('set-lead' as const), track: nodes, lead: fc.boolean() }),
  fc.record({
    kind: fc.constantFrom('change-trim' as const, 'change-output-gain' as const),
    node: nodes,
    db: number(-80, 80),
  }),
  fc.tuple(nodes, kinds, ids, stages, before).map(([node, kind, id, stage, at]): Edit => {
    const treatment = newTreatment(kind, id, stage)
    return { kind: 'add-treatment', node, treatment, before: at }
  }),
  fc.record({ kind: fc.constant('remove-treatment' as const), node: nodes, treatment: ids }),
  fc.record({
    kind: fc.constant('move-treatment' as const),
    node: nodes,
    treatment: ids,
    stage: stages,
    before,
  }),
  fc.record({
    kind: fc.constant('set-treatment' as const),
    node: nodes,
    treatment: ids,
    change: fc.record(
      {
        on: fc.boolean(),
        reason: fc.string({ maxLength: 10 }),
        params: fc.constantFrom(
          { hz: 150, slopeDbPerOct: 24 },
          { delayFrames: 3, polarity: -1, turnDeg: 10 },
          { phase: 'linear', bands: [] },
          'spoiled',
        ),
      },
      { requiredKeys: [] },
    ),
  }),
  fc.record({
    kind: fc.constant('add-band' as const),
    node: nodes,
    stage: stages,
    treatment: fc.option(ids),
    newTreatment: ids,
    chainBand: bands,
  }),
  fc.record({ kind: fc.constant('remove-band' as const), node: nodes, treatment: ids, band: ids }),
  fc.record({
    kind: fc.constant('dismiss' as const),
    dismissed: fc.record({
      key: fc.string({ maxLength: 5 }),
      reason: fc.constant(''),
      state: fc.constant('s'),
    }),
  }),
)

const start = sessionOf(['a', 'b', 'c'])

/** Applies an edit, or tells that it is refused as it should be: with a sentence. */
function tried(session: Session, edit: Edit): Session {
  try {
    return applyEdits(session, [edit])
  } catch (error) {
    expect(error).toBeInstanceOf(DocumentError)
    expect((error as Error).message).toMatch(/^[A-Z].*\.$/)
    return session
  }
}

describe('edits', () => {
  it('in any number and order leave a document that its reader takes and that compiles to a graph', () => {
    fc.assert(
      fc.property(fc.array(edits, { maxLength: 40 }), (list) => {
        const before = structuredClone(start)
        const past = [start]
        for (const edit of list) past.push(tried(past[past.length - 1], edit))
        const made = past[past.length - 1]
        expect(checkSession(JSON.parse(writeSession(made)))).toEqual(made)
        const { nodes: planned } = renderPlan(made, designLater)
        // A cycle would leave nodes out.
        expect(sortNodes(planned)).toHaveLength(planned.length)
        // Nothing is changed in place, so that undo is the state before, exactly.
        expect(past[0]).toEqual(before)
      }),
      { numRuns: 150 },
    )
  })

  it('are all made or none', () => {
    const list: Edit[] = [
      { kind: 'set-node', node: 'a', change: { faderDb: -3 } },
      { kind: 'set-node', node: 'a', change: { faderDb: 99 } },
    ]
    expect(() => applyEdits(start, list)).toThrow(/faderDb/)
    expect(start.tracks[0].faderDb).toBe(0)
  })

  it('put a band on the equaliser of its stage, and make one where there is none', () => {
    const chainBand = newChainBand('m', newBand('bell', 500))
    const add = {
      kind: 'add-band',
      node: 'a',
      stage: 'fit',
      treatment: null,
      newTreatment: 'e',
    } as const
    const one = applyEdits(start, [{ ...add, chainBand }])
    expect(one.tracks[0].chain.treatments).toMatchObject([
      { id: 'e', kind: 'equaliser', stage: 'fit' },
    ])
    const two = applyEdits(one, [
      { ...add, newTreatment: 'f', chainBand: { ...chainBand, id: 'n' } },
    ])
    expect(two.tracks[0].chain.treatments).toHaveLength(1)
    const three = applyEdits(two, [
      { ...add, stage: 'clean', chainBand: { ...chainBand, id: 'o' }, newTreatment: 'g' },
    ])
    expect(three.tracks[0].chain.treatments.map((t) => t.id)).toEqual(['g', 'e'])
  })

  it('keep treatments in the order of their stages, and move them within and between', () => {
    const add = (id: string, stage: (typeof STAGES)[number]): Edit => ({
      kind: 'add-treatment',
      node: 'a',
      treatment: newTreatment('align', id, stage),
      before: null,
    })
    const made = applyEdits(start, [
      add('x', 'shape'),
      add('y', 'clean'),
      add('z', 'fit'),
      add('w', 'fit'),
    ])
    const order = (s: Session) => s.tracks[0].chain.treatments.map((t) => t.id).join('')
    expect(order(made)).toBe('yzwx')
    const move = (treatment: string, stage: (typeof STAGES)[number], at: string | null) =>
      order(applyEdits(made, [{ kind: 'move-treatment', node: 'a', treatment, stage, before: at }]))
    expect(move('w', 'fit', 'z')).toBe('ywzx')
    expect(move('y', 'shape', 'x')).toBe('zwyx')
    expect(move('x', 'clean', null)).toBe('yxzw')
  })

  it('tell limits where they are met', () => {
    const arrival = {
      name: 'n',
      role: 'other' as const,
      audio: start.tracks[0].audio,
      timeStampSeconds: null,
    }
    const tracks = Array.from({ length: MOST.tracks }, (_, i) => ({ ...arrival, id: `n${i}` }))
    expect(() => applyEdits(start, [{ kind: 'add-tracks', tracks }])).toThrow(/up to 200 tracks/)
    const full = applyEdits(start, [{ kind: 'add-tracks', tracks: tracks.slice(3) }])
    expect(full.tracks).toHaveLength(MOST.tracks)
    expect(() =>
      full.tracks
        .slice(0, 22)
        .reduce((s, t) => applyEdits(s, [{ kind: 'set-lead', track: t.id, lead: true }]), full),
    ).toThrow(/up to 20 leads/)
  })

  it('give members of a group that goes to where the group went', () => {
    const made = applyEdits(start, [
      { kind: 'add-group', id: 'g', name: 'G', members: ['a', 'b'] },
      { kind: 'add-group', id: 'h', name: 'H', members: ['g'] },
      { kind: 'remove-node', node: 'g' },
    ])
    expect(made.tracks.map((t) => t.output)).toEqual(['h', 'h', 'mix'])
  })
})
