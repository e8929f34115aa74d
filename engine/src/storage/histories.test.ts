import 'fake-indexeddb/auto'
import { applyEdits, type Edit, emptySession, MOST, type Session } from '@sober-prism/core/session'
import { newTreatment } from '@sober-prism/core/treatments'
import { beforeEach, describe, expect, it } from 'vitest'
import { database } from './database'
import { boundedHistory, loadHistory, saveHistory } from './histories'
import { saveSession } from './sessions'
import { tidy } from './tidy'

const audio = (i: number) => ({ hash: `${i}`.padStart(64, '0'), channels: 2 as const, frames: 480 })
const begin = (tracks: number) =>
  applyEdits(emptySession('s', 'Piece', '2026-03-04T05:06:07.000Z', 48000), [
    {
      kind: 'add-tracks',
      tracks: Array.from({ length: tracks }, (_, i) => ({
        id: `t${i}`,
        name: `T${i}`,
        role: 'other' as const,
        audio: audio(i),
        timeStampSeconds: null,
      })),
    },
  ])
/** The states that so many edits make, the first included. */
function states(first: Session, count: number, edit: (step: number) => Edit): Session[] {
  const all = [first]
  for (let i = 0; i < count; i++) all.push(applyEdits(all[i], [edit(i)]))
  return all
}
const fader = (i: number): Edit => ({ kind: 'set-node', node: 't0', change: { faderDb: -i / 10 } })

beforeEach(async () => (await database()).clear('histories'))

describe('undo that is kept for the next time', () => {
  it('comes back as it was, the last hundred steps of it', async () => {
    const all = states(begin(3), 130, fader)
    const [past, present, future] = [all.slice(0, 120), all[120], all.slice(121)]
    await saveHistory({ past, present, future })
    expect(await loadHistory(present)).toEqual({ past: past.slice(-100), future })
  })

  it('counts what states share once: 100 steps on one of 200 tracks are all kept', () => {
    const full = Array.from(
      { length: MOST.treatments },
      (_, i): Edit => ({
        kind: 'add-treatment',
        node: 't0',
        treatment: newTreatment('duck', `d${i}`, 'shape'),
        before: null,
      }),
    )
    const all = states(applyEdits(begin(200), full), 100, fader)
    const kept = boundedHistory({ past: all.slice(0, 100), present: all[100], future: [] })
    expect(kept.past.length).toBe(100)
  })

  it('is bounded in size: where nothing is shared, the nearest steps are kept', () => {
    const name = (i: number): Edit => ({ kind: 'set-session', change: { name: `${i}` } })
    const all = states(begin(200), 100, name).map((s) => structuredClone(s))
    const { past } = boundedHistory({ past: all.slice(0, 100), present: all[100], future: [] })
    expect(past.length).toBeGreaterThan(5)
    expect(past.length).toBeLessThan(100)
    expect(past.at(-1)).toBe(all[99])
  })

  it('takes a last change that did not come into it as a step; solo is none', async () => {
    const [a, b, c] = states(begin(1), 2, fader)
    await saveHistory({ past: [a], present: b, future: [] })
    expect(await loadHistory(c)).toEqual({ past: [a, b], future: [] })
    const soloed = applyEdits(b, [{ kind: 'set-node', node: 't0', change: { solo: true } }])
    expect(await loadHistory(soloed)).toEqual({ past: [a], future: [] })
  })

  it('is left out where it cannot be read, and never stands in the way', async () => {
    const db = await database()
    await db.put('histories', {
      id: 's',
      at: Date.now(),
      past: [{ version: 99 }],
      present: 7,
      future: [],
    })
    expect(await loadHistory(begin(1))).toBeNull()
    expect(await loadHistory({ ...begin(1), id: 'other' })).toBeNull()
  })

  it('keeps the audio of what it would bring back, and goes when it is a month old', async () => {
    const now = begin(1)
    await saveSession({ ...now, tracks: [] })
    await saveHistory({ past: [now], present: { ...now, tracks: [] }, future: [] })
    const db = await database()
    const recording = {
      blocks: 'b',
      channels: 2,
      frames: 480,
      peaks: new Float32Array(1),
      storedAt: 0,
    }
    await db.put('recordings', recording, audio(0).hash)
    await tidy()
    expect(await db.get('recordings', audio(0).hash)).toBeDefined()
    const kept = await db.get('histories', 's')
    if (kept) await db.put('histories', { ...kept, at: Date.now() - 40 * 86_400_000 })
    await tidy()
    expect(await db.get('histories', 's')).toBeUndefined()
    expect(await db.get('recordings', audio(0).hash)).toBeUndefined()
  })
})
