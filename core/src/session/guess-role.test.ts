import { describe, expect, it } from 'vitest'
import { applyEdits } from './apply-edits'
import { emptySession } from './defaults'
import { guessLead, guessRole } from './guess-role'

describe('who leads, by a name', () => {
  it.each([
    ['Voice', true],
    ['Lead vox', true],
    ['Singer', true],
    ['VO take 2', true],
    ['Choir high', false],
    ['Second voice', false],
    ['Backing vocals', false],
    ['Vox double L', false],
    ['BVs vocal', false],
    ['Vocal harmony', false],
    ['Piano', false],
  ])('%s: %s', (name, leads) => {
    expect(guessLead(name, guessRole(name))).toBe(leads)
  })

  it('decides for tracks that come in and whose role is set, and leaves what was chosen', () => {
    const track = (id: string, name: string) => ({
      id,
      name,
      role: guessRole(name),
      audio: { hash: id.padStart(64, '0'), channels: 1 as const, frames: 48_000 },
      timeStampSeconds: null,
    })
    const made = applyEdits(emptySession('s', 'S', '2026-03-04T05:06:07.000Z', 48_000), [
      {
        kind: 'add-tracks',
        tracks: [track('1', 'Voice'), track('2', 'Choir'), track('3', 'Oohs')],
      },
    ])
    expect(made.leadIds).toEqual(['1'])
    const sung = applyEdits(made, [{ kind: 'set-node', node: '3', change: { role: 'voice' } }])
    expect(sung.leadIds).toEqual(['1'])
    const chosen = applyEdits(sung, [{ kind: 'set-lead', track: '2', lead: true }])
    expect(chosen.leadIds).toEqual(['1', '2'])
    const played = applyEdits(chosen, [{ kind: 'set-node', node: '1', change: { role: 'keys' } }])
    expect(played.leadIds).toEqual(['2'])
  })
})
