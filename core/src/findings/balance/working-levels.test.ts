import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { applyEdits, type Edit, emptySession, ROLES, type Session } from '../../session'
import {
  leadOverRest,
  levelEdits,
  proposeLevels,
  setLeadOverRest,
  WORKING_LUFS,
} from './working-levels'

const audio = { hash: 'a'.repeat(64), channels: 2, frames: 48000 }

/** A session with a track of each loudness; the first leads. */
function sessionOf(lufs: readonly number[]): { session: Session; loudness: Map<string, number> } {
  const tracks = lufs.map((_, i) => ({
    id: `t${i}`,
    name: `T${i}`,
    role: ROLES[i % ROLES.length],
    audio,
    timeStampSeconds: null,
  }))
  const edits: Edit[] = [
    { kind: 'add-tracks', tracks },
    ...tracks.map(({ id }, i): Edit => ({ kind: 'set-lead', track: id, lead: i === 0 })),
  ]
  const empty = emptySession('s', 'S', '2026-03-04T05:06:07.000Z', 48000)
  return { session: applyEdits(empty, edits), loudness: new Map(lufs.map((v, i) => [`t${i}`, v])) }
}

const levels = fc.array(fc.double({ min: -45, max: -6, noNaN: true }), {
  minLength: 2,
  maxLength: 12,
})

describe('working levels', () => {
  it('bring every track to the working loudness within half a step, and the lead over the rest', () => {
    fc.assert(
      fc.property(levels, (lufs) => {
        const { session, loudness } = sessionOf(lufs)
        const proposed = proposeLevels(session, loudness)
        const after = applyEdits(session, levelEdits(proposed))
        const now = new Map(after.tracks.map((t) => [t.id, (loudness.get(t.id) ?? 0) + t.trimDb]))
        for (const value of now.values()) expect(Math.abs(value - WORKING_LUFS)).toBeLessThan(1)
        const others = after.tracks.slice(1).map((t) => t.faderDb)
        expect(after.tracks[0].faderDb).toBeGreaterThan(Math.max(...others))
        // Proposed again, nothing is left to trim.
        expect(proposeLevels(after, now).every((p) => p.trimDb === 0)).toBe(true)
      }),
    )
  })

  it('let tracks of one role share its level: a kit through many microphones is as loud as through one', () => {
    const powerOf = (drums: number) => {
      const { session, loudness } = sessionOf(Array.from({ length: drums + 1 }, () => -24))
      const kit = session.tracks
        .slice(1)
        .map((t): Edit => ({ kind: 'set-node', node: t.id, change: { role: 'drums' } }))
      const proposed = proposeLevels(applyEdits(session, kit), loudness)
      return proposed.slice(1).reduce((sum, p) => sum + 10 ** (p.faderDb / 10), 0)
    }
    for (const drums of [2, 3, 6, 9]) {
      expect(Math.abs(10 * Math.log10(powerOf(drums) / powerOf(1)))).toBeLessThan(0.3)
    }
  })

  it('leave silent and muted tracks alone', () => {
    const { session, loudness } = sessionOf([-20, -30, -12])
    loudness.delete('t1')
    const muted = applyEdits(session, [{ kind: 'set-node', node: 't2', change: { mute: true } }])
    expect(proposeLevels(muted, loudness).map((p) => p.track)).toEqual(['t0'])
  })

  it('set the lead’s level against the rest to 0.1 LU, within the faders’ range', () => {
    fc.assert(
      fc.property(levels, fc.double({ min: -12, max: 12, noNaN: true }), (lufs, wanted) => {
        const { session, loudness } = sessionOf(lufs)
        const after = applyEdits(session, setLeadOverRest(session, loudness, wanted))
        const reached = leadOverRest(after, loudness)
        const held = after.tracks.some((t) => t.faderDb <= -60)
        if (!held) expect(Math.abs((reached ?? 0) - wanted)).toBeLessThan(0.11)
        expect(Math.max(...after.tracks.map((t) => t.faderDb))).toBeLessThanOrEqual(12)
      }),
    )
  })

  it('read two equal sounds against one as 3 LU under it', () => {
    const { session, loudness } = sessionOf([-20, -20, -20])
    expect(leadOverRest(session, loudness)).toBeCloseTo(-3.01, 2)
    expect(leadOverRest({ ...session, leadIds: [] }, loudness)).toBeNull()
  })
})
