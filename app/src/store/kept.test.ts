import 'fake-indexeddb/auto'
import { checkSession, type Edit, MOST, type Session } from '@sober-prism/core/session'
import { type KindName, newTreatment, STAGES, TREATMENT_KINDS } from '@sober-prism/core/treatments'
import { loadSession, saveSession } from '@sober-prism/engine'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { type History, redo, undo } from './history'
import { newSession, sessionActions, sessionReducer } from './session-slice'

const names = fc.constantFrom('a', 'b', 'c', 'g', 'h', 'mix')
const audio = { hash: 'd'.repeat(64), channels: 1, frames: 48000 }
const stamps = fc.option(fc.double({ min: 0, max: 1e300, noNaN: true }))

const edits: fc.Arbitrary<Edit> = fc.oneof(
  fc
    .tuple(names, stamps, fc.constantFrom(48000, 2 ** 40))
    .map(([id, timeStampSeconds, frames]): Edit => {
      const track = { id, name: id, role: 'other' as const, audio: { ...audio, frames } }
      return { kind: 'add-tracks', tracks: [{ ...track, timeStampSeconds }] }
    }),
  fc.nat(MOST.references).map((count): Edit => {
    const references = Array.from({ length: count }, (_, i) => ({ id: `r${i}`, name: 'R', audio }))
    return { kind: 'add-references', references }
  }),
  names.map((node): Edit => ({ kind: 'remove-node', node })),
  fc
    .tuple(names, fc.array(names, { maxLength: 3 }))
    .map(([id, members]): Edit => ({ kind: 'add-group', id, name: 'G', members })),
  fc.tuple(names, names).map(([node, output]): Edit => ({ kind: 'set-output', node, output })),
  fc.tuple(names, fc.boolean()).map(([track, lead]): Edit => ({ kind: 'set-lead', track, lead })),
  fc.tuple(fc.nat(900_000), fc.integer({ min: -10, max: 900_000 })).map(
    ([fromFrame, length]): Edit => ({
      kind: 'set-session',
      change: { passage: { fromFrame, toFrame: fromFrame + length } },
    }),
  ),
  fc
    .tuple(
      names,
      fc.constantFrom(...STAGES),
      fc.constantFrom(...(Object.keys(TREATMENT_KINDS) as KindName[])),
      fc.uuid(),
    )
    .map(
      ([node, stage, kind, id]): Edit => ({
        kind: 'add-treatment',
        node,
        treatment: newTreatment(kind, id, stage),
        before: null,
      }),
    ),
)
const steps = fc.array(
  fc.oneof(
    { weight: 8, arbitrary: edits.map((edit) => ({ do: 'edit' as const, edit })) },
    { weight: 2, arbitrary: fc.constantFrom({ do: 'undo' as const }, { do: 'redo' as const }) },
    { weight: 1, arbitrary: fc.constant({ do: 'open' as const }) },
  ),
  { maxLength: 30 },
)

/** Stores what is open and opens it again. */
async function reopened(history: History): Promise<History> {
  const present = history.present as Session
  await saveSession(present)
  const loaded = await loadSession(present.id)
  expect(loaded?.session).toEqual(present)
  return sessionReducer(history, sessionActions.opened(loaded?.session ?? null))
}

describe('the open session', () => {
  it('can be stored and opened again, equal, after any edits, undone and redone in any order', async () => {
    await fc.assert(
      fc.asyncProperty(steps, async (list) => {
        const { id } = newSession('')
        const start = { ...newSession('Piece'), id }
        let history = sessionReducer(undefined, sessionActions.opened(start))
        for (const step of list) {
          if (step.do === 'edit')
            history = sessionReducer(history, sessionActions.edited([step.edit]))
          else if (step.do === 'open') history = await reopened(history)
          else history = sessionReducer(history, step.do === 'undo' ? undo() : redo())
          expect(() => checkSession(history.present)).not.toThrow()
          // What is refused is told in a sentence.
          if (history.refused) expect(history.refused.sentence).toMatch(/^[A-Z].*\.$/)
        }
        await reopened(history)
      }),
      { numRuns: 60 },
    )
  })
})
