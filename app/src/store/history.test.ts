import { newBand } from '@sober-prism/core/filters'
import { type Edit, guessRole, MOST, type Session } from '@sober-prism/core/session'
import { newChainBand, newTreatment } from '@sober-prism/core/treatments'
import { describe, expect, it } from 'vitest'
import { type EditMeta, type History, historyRestored, redo, undo } from './history'
import { newSession, sessionActions, sessionReducer } from './session-slice'

const audio = { hash: 'd'.repeat(64), channels: 1, frames: 48000 }
const arrival = (name: string) => ({
  id: name,
  name,
  audio,
  role: guessRole(name),
  timeStampSeconds: null,
})
const made = (h: History, edits: readonly Edit[], meta?: EditMeta) =>
  sessionReducer(h, sessionActions.edited(edits, meta))

function begin(...names: string[]): History {
  const opened = sessionReducer(undefined, sessionActions.opened(newSession('Piece')))
  return made(opened, [{ kind: 'add-tracks', tracks: names.map(arrival) }])
}
const setFader = (faderDb: number): Edit => ({ kind: 'set-node', node: 'a', change: { faderDb } })
const fader = (h: History) => h.present?.tracks[0].faderDb

describe('undo and redo', () => {
  it('go back and forth over edits, and a new edit ends redo', () => {
    let h = begin('a')
    for (const db of [-1, -2]) h = made(h, [setFader(db)])
    h = sessionReducer(h, undo())
    expect(fader(h)).toBe(-1)
    h = sessionReducer(h, redo())
    expect(fader(h)).toBe(-2)
    h = made(sessionReducer(h, undo()), [{ kind: 'set-session', change: { name: 'New name' } }])
    expect(sessionReducer(h, redo())).toBe(h)
  })

  it('take one gesture as one step', () => {
    let h = begin('a')
    for (let db = 0; db > -10; db--) h = made(h, [setFader(db - 1)], { gesture: 'drag 1' })
    expect(fader(sessionReducer(h, undo()))).toBe(0)
  })

  it('leave solo and lift of tracks and groups as they are', () => {
    let h = made(begin('a'), [{ kind: 'add-group', id: 'g', name: 'G', members: ['a'] }])
    h = made(h, [setFader(-3)])
    for (const node of ['a', 'g']) {
      h = made(h, [{ kind: 'set-node', node, change: { solo: true } }], { listening: true })
    }
    h = sessionReducer(h, undo())
    expect(h.present?.tracks[0]).toMatchObject({ faderDb: 0, solo: true })
    expect(h.present?.groups[0].solo).toBe(true)
  })

  it('do nothing where there is nothing, and forget when another session opens', () => {
    const h = sessionReducer(begin('a'), sessionActions.opened(newSession('Other')))
    expect(h.past).toEqual([])
    expect(sessionReducer(h, undo())).toBe(h)
  })

  it('come back with steps that were kept, before those that were made meanwhile', () => {
    const [one, two] = [begin('a'), made(begin('a'), [setFader(-1)])]
    const kept = {
      past: [one.present, two.present] as Session[],
      future: [one.present] as Session[],
    }
    const opened = sessionReducer(undefined, sessionActions.opened(two.present))
    const back = sessionReducer(opened, historyRestored(kept))
    expect([back.past.length, back.future.length]).toEqual([2, 1])
    expect(fader(sessionReducer(back, undo()))).toBe(-1)
    const worked = sessionReducer(made(opened, [setFader(-5)]), historyRestored(kept))
    expect([worked.past.length, worked.future.length]).toEqual([3, 0])
    expect(fader(sessionReducer(worked, undo()))).toBe(-1)
  })

  it('share what undo leaves as it is', () => {
    const h = made(begin('a', 'b'), [setFader(-3)])
    expect(sessionReducer(h, undo()).present?.tracks[1]).toBe(h.present?.tracks[1])
  })

  it('take back the edits of a finding as one step, exactly', () => {
    const before = begin('a', 'b')
    const chainBand = newChainBand('m', newBand('bell', 500))
    const params = { delayFrames: -149, polarity: -1, turnDeg: 0 } as const
    const h = made(before, [
      { kind: 'add-band', node: 'a', stage: 'fit', treatment: null, newTreatment: 'e', chainBand },
      { kind: 'change-output-gain', node: 'a', db: 1.5 },
      {
        kind: 'add-treatment',
        node: 'b',
        treatment: newTreatment('align', 'x', 'fit', params),
        before: null,
      },
    ])
    const [a, b] = h.present?.tracks ?? []
    expect(a.chain.treatments).toHaveLength(1)
    expect(a.chain.output.gainDb).toBe(1.5)
    expect(b.chain.treatments[0].params).toEqual(params)
    expect(sessionReducer(h, undo()).present).toEqual(before.present)
  })
})

describe('a refused edit', () => {
  it('leaves everything as it was and says why, each time anew', () => {
    const h = begin('a')
    const many = Array.from({ length: MOST.tracks }, (_, i) => arrival(`t${i}`))
    const refused = made(h, [{ kind: 'add-tracks', tracks: many }])
    expect(refused.present).toBe(h.present)
    expect(refused.past).toBe(h.past)
    expect(refused.refused).toMatchObject({ count: 1 })
    expect(refused.refused?.sentence).toMatch(/up to 200 tracks/)
    expect(made(refused, [setFader(99)]).refused?.count).toBe(2)
  })
})

describe('tracks that arrive', () => {
  it('are lettered in order, get a role by their name, and singing leads', () => {
    const { present } = begin('Lead vocal', 'Tuba', 'Kick drum')
    expect(present?.tracks.map((t) => [t.letter, t.role])).toEqual([
      ['A', 'voice'],
      ['B', 'bass'],
      ['C', 'drums'],
    ])
    expect(present?.leadIds).toEqual(['Lead vocal'])
  })

  it('lead where they sing or speak, wherever they stand; of instruments none leads by itself', () => {
    expect(begin('Kick drum', 'Host', 'Lead vocal').present?.leadIds).toEqual([
      'Host',
      'Lead vocal',
    ])
    expect(begin('Kick drum', 'Tuba').present?.leadIds).toEqual([])
  })

  it('lead when they are said to be a voice, and no more when they are not', () => {
    const role = (to: 'voice' | 'speech' | 'keys') =>
      ({ kind: 'set-node', node: 'b', change: { role: to } }) as const
    const voice = made(begin('a', 'b'), [role('voice')])
    expect(voice.present?.leadIds).toEqual(['b'])
    const notLeading = made(voice, [{ kind: 'set-lead', track: 'b', lead: false }])
    expect(made(notLeading, [role('speech')]).present?.leadIds).toEqual([])
    const chosen = made(voice, [{ kind: 'set-lead', track: 'a', lead: true }])
    expect(made(chosen, [role('keys')]).present?.leadIds).toEqual(['a'])
  })

  it('leave no lead behind when they go', () => {
    const h = made(begin('Lead vocal', 'b'), [{ kind: 'remove-node', node: 'Lead vocal' }])
    expect(h.present?.leadIds).toEqual([])
  })

  it('keep the rate once there is audio', () => {
    const h = made(begin('a'), [{ kind: 'set-session', change: { sampleRateHz: 96000 } }])
    expect(h.present?.sampleRateHz).toBe(48000)
  })

  it('move to a place, held within the list', () => {
    const order = (to: number) =>
      made(begin('a', 'b', 'c'), [{ kind: 'order-track', track: 'a', to }])
        .present?.tracks.map((t) => t.id)
        .join('')
    expect([order(1), order(2), order(99)]).toEqual(['bac', 'bca', 'bca'])
  })
})

describe('a role is guessed from the name', () => {
  it.each([
    ['Voice', 'voice'],
    ['01_LeadVox', 'voice'],
    ['Bkg Vocals', 'voice'],
    ['Singer 2', 'voice'],
    ['Missing', 'other'],
    ['Voice-over', 'speech'],
    ['03_VO', 'speech'],
    ['Narrator', 'speech'],
    ['07_hats', 'drums'],
    ['What now', 'other'],
    ['Bottom', 'other'],
    ['Tom1', 'drums'],
    ['Sub 808', 'bass'],
  ])('%s: %s', (name, role) => {
    expect(guessRole(name)).toBe(role)
  })
})
