import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { newBand } from '../filters'
import { sessionOf } from '../testing/sessions'
import { newChainBand, newTreatment, type StageName, type Treatment } from '../treatments'
import { applyEdits } from './apply-edits'
import { DocumentError } from './document-error'
import { type Preset, parsePresetFile, presetEdits, writePresetFile } from './preset-file'
import { checkSession } from './session-file'

const bell = (id: string, stage: StageName, hz = 900): Treatment =>
  newTreatment('equaliser', id, stage, {
    phase: 'linear',
    bands: [newChainBand(`${id}-b`, { ...newBand('bell', hz), db: -3 })],
  })
const preset = (scope: Preset['scope'], ...treatments: Treatment[]): Preset => ({
  name: 'Less box',
  words: 'For small rooms.',
  tags: ['voice', 'room'],
  scope,
  treatments,
})
let count = 0
const newId = () => `n${++count}`
const chain = (...treatments: Treatment[]) =>
  applyEdits(
    sessionOf(['a']),
    treatments.map((treatment) => ({ kind: 'add-treatment', node: 'a', treatment, before: null })),
  )
const treatmentsOf = (session: ReturnType<typeof chain>) => session.tracks[0].chain.treatments

describe('a file of presets', () => {
  it('gives back what was written, whatever the words', () => {
    const text = fc.string({ maxLength: 40 })
    fc.assert(
      fc.property(
        text,
        fc.array(fc.string({ minLength: 1, maxLength: 20 }), { maxLength: 5 }),
        (words, tags) => {
          const kept = tags.map((t) => t.trim()).filter((t) => t !== '')
          const made = {
            ...preset('stage', bell('x', 'clean'), bell('y', 'clean')),
            words,
            tags: kept,
          }
          const [read] = parsePresetFile(writePresetFile([made]))
          expect([read.words, read.tags, read.scope]).toEqual([words, kept, 'stage'])
          expect(read.treatments.map((t) => [t.kind, t.stage])).toEqual([
            ['equaliser', 'clean'],
            ['equaliser', 'clean'],
          ])
        },
      ),
    )
  })

  it('is refused with its path when it does not fit', () => {
    const file = JSON.parse(writePresetFile([preset('treatment', bell('x', 'clean'))]))
    const broken = (change: object) => JSON.stringify({ ...file, ...change })
    const [one] = file.presets
    for (const [text, path] of [
      ['{', 'not JSON'],
      [broken({ version: 2 }), 'version'],
      [broken({ presets: [{ ...one, name: ' ' }] }), 'presets[0].name'],
      [broken({ presets: [{ ...one, colour: 'red' }] }), 'presets[0]'],
      [broken({ presets: [{ ...one, treatments: [] }] }), 'presets[0].treatments'],
      [
        broken({ presets: [{ ...one, treatments: [...one.treatments, ...one.treatments] }] }),
        'one treatment',
      ],
    ]) {
      expect(() => parsePresetFile(text)).toThrow(DocumentError)
      expect(() => parsePresetFile(text)).toThrow(path)
    }
  })
})

describe('a preset', () => {
  it('is added in the stage one works in, with identities of its own and its name as reason', () => {
    const session = chain(bell('x', 'clean'))
    const place = {
      node: 'a',
      present: treatmentsOf(session),
      stage: 'fit',
      replaces: 'nothing',
    } as const
    const twice = [1, 2].flatMap(() =>
      presetEdits(preset('treatment', bell('x', 'clean')), place, newId),
    )
    const made = treatmentsOf(applyEdits(session, twice))
    expect(made.map((t) => t.stage)).toEqual(['clean', 'fit', 'fit'])
    expect(made[1].reason).toBe('Preset: Less box')
    const bands = made.flatMap((t) =>
      t.kind === 'equaliser' ? t.params.bands.map((b) => b.id) : [],
    )
    expect(new Set([...made.map((t) => t.id), ...bands]).size).toBe(6)
  })

  it('takes the place of one treatment, of a stage, or of the chain', () => {
    const session = chain(bell('x', 'clean'), bell('y', 'clean'), bell('z', 'shape'))
    const present = treatmentsOf(session)
    const replaced = (made: Preset, replaces: 'same-scope' | { treatment: string }) =>
      treatmentsOf(
        applyEdits(
          session,
          presetEdits(made, { node: 'a', present, stage: 'clean', replaces }, () => `p${++count}`),
        ),
      ).map((t) => (t.id.startsWith('p') ? 'new' : t.id))
    const one = preset('treatment', bell('q', 'shape'))
    expect(replaced(one, { treatment: 'x' })).toEqual(['new', 'y', 'z'])
    expect(replaced(preset('stage', bell('q', 'fit')), 'same-scope')).toEqual(['new', 'z'])
    const both = preset('chain', bell('q', 'fit'), bell('r', 'shape'))
    expect(replaced(both, 'same-scope')).toEqual(['new', 'new'])
  })

  it('leaves a document that can be read again', () => {
    const session = chain(bell('x', 'clean'))
    const place = {
      node: 'a',
      present: treatmentsOf(session),
      stage: null,
      replaces: 'same-scope',
    } as const
    const made = applyEdits(session, presetEdits(preset('chain', bell('q', 'clean')), place, newId))
    expect(checkSession(JSON.parse(JSON.stringify(made)))).toEqual(made)
  })
})
