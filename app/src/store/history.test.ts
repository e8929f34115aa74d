import { newBand } from '@sober-prism/core/session'
import { describe, expect, it } from 'vitest'
import { type History, redo, undo } from './history'
import { newSession, sessionActions, sessionReducer } from './session-slice'

const audio = { hash: 'd'.repeat(64), channels: 1, frames: 48000 }
const arrival = (id: string, name = id) => ({ id, name, audio, timeStampSeconds: null })

function begin(...names: string[]): History {
  const opened = sessionReducer(undefined, sessionActions.opened(newSession('Piece')))
  return sessionReducer(opened, sessionActions.tracksAdded(names.map((n) => arrival(n))))
}
const fader = (h: History) => h.present?.tracks[0].faderDb

describe('undo and redo', () => {
  it('go back and forth over edits, and a new edit ends redo', () => {
    let h = begin('a')
    for (const faderDb of [-1, -2]) {
      h = sessionReducer(h, sessionActions.trackChanged({ id: 'a', change: { faderDb } }))
    }
    h = sessionReducer(h, undo())
    expect(fader(h)).toBe(-1)
    h = sessionReducer(h, redo())
    expect(fader(h)).toBe(-2)
    h = sessionReducer(sessionReducer(h, undo()), sessionActions.renamed('New name'))
    expect(sessionReducer(h, redo())).toBe(h)
  })

  it('take one gesture as one step', () => {
    let h = begin('a')
    for (let db = 0; db > -10; db--) {
      const change = { id: 'a', change: { faderDb: db - 1 } }
      h = sessionReducer(h, sessionActions.trackChanged(change, { gesture: 'drag 1' }))
    }
    expect(fader(sessionReducer(h, undo()))).toBe(0)
  })

  it('leave solo and lift as they are', () => {
    let h = begin('a')
    h = sessionReducer(h, sessionActions.trackChanged({ id: 'a', change: { faderDb: -3 } }))
    const listening = { id: 'a', change: { solo: true } }
    h = sessionReducer(h, sessionActions.trackChanged(listening, { listening: true }))
    h = sessionReducer(h, undo())
    expect(h.present?.tracks[0]).toMatchObject({ faderDb: 0, solo: true })
  })

  it('do nothing where there is nothing, and forget when another session opens', () => {
    const h = sessionReducer(begin('a'), sessionActions.opened(newSession('Other')))
    expect(h.past).toEqual([])
    expect(sessionReducer(h, undo())).toBe(h)
  })
})

describe('edits of the document', () => {
  it('letter tracks in order, guess roles, and name the first track lead', () => {
    const { present } = begin('Lead vocal', 'Tuba', 'Kick drum')
    expect(present?.tracks.map((t) => [t.letter, t.role])).toEqual([
      ['A', 'voice'],
      ['B', 'bass'],
      ['C', 'drums'],
    ])
    expect(present?.leadIds).toEqual(['Lead vocal'])
  })

  it('give the lead on when its track goes', () => {
    const h = sessionReducer(begin('a', 'b'), sessionActions.trackRemoved('a'))
    expect(h.present?.leadIds).toEqual(['b'])
  })

  it('apply the moves of a finding as one step: bands, trims, shifts and polarity', () => {
    const move = { id: 'm', on: true, band: newBand('bell', 500), reason: '', evidence: null }
    const steps = [
      { kind: 'move', owner: 'a', stage: 'fit', move },
      { kind: 'trim', owner: 'a', db: 1.5 },
      { kind: 'align', owner: 'b', shiftFrames: -149, invert: true },
    ] as const
    const before = begin('a', 'b')
    const h = sessionReducer(before, sessionActions.movesApplied(steps))
    const [a, b] = h.present?.tracks ?? []
    expect(a.chain.fit.moves).toHaveLength(1)
    expect(a.chain.output.trimDb).toBe(1.5)
    expect([b.offsetFrames, b.chain.output.polarity]).toEqual([-149, 'inverted'])
    expect(sessionReducer(h, undo()).present?.tracks).toEqual(before.present?.tracks)
  })

  it('change a move wherever it stands in the chain', () => {
    const band = newBand('bell', 500)
    const move = { id: 'm', on: true, band, reason: '', evidence: null }
    let h = begin('a')
    h = sessionReducer(h, sessionActions.moveAdded({ owner: 'mix', stage: 'shape', move }))
    const change = { owner: 'mix', moveId: 'm', change: { db: -2 } }
    h = sessionReducer(h, sessionActions.bandChanged(change))
    expect(h.present?.mix.chain.shape.moves[0].band.db).toBe(-2)
    h = sessionReducer(h, sessionActions.moveRemoved({ owner: 'mix', moveId: 'm' }))
    expect(h.present?.mix.chain.shape.moves).toEqual([])
  })

  it('keep the rate once there is audio', () => {
    const h = sessionReducer(begin('a'), sessionActions.rateChosen(96000))
    expect(h.present?.sampleRateHz).toBe(48000)
  })

  it('move a track to a place, held within the list', () => {
    const order = (to: number) =>
      sessionReducer(begin('a', 'b', 'c'), sessionActions.trackMoved({ id: 'a', to }))
        .present?.tracks.map((t) => t.id)
        .join('')
    expect([order(1), order(2), order(99)]).toEqual(['bac', 'bca', 'bca'])
  })
})
