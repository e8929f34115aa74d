import { applyEdits, type Edit, emptySession, type Session } from '@sober-prism/core/session'

/** A session of tracks with these names; the first leads. */
export function sessionOf(names: readonly string[], ...edits: readonly Edit[]): Session {
  const empty = emptySession('s', 'A piece', '2026-03-04T05:06:07.000Z', 48000)
  const tracks = names.map((name, i) => ({
    id: `t${i}`,
    name,
    role: i === 0 ? ('voice' as const) : ('other' as const),
    audio: { hash: i.toString(16).padStart(64, '0'), channels: 2, frames: 48000 * 60 },
    timeStampSeconds: null,
  }))
  const lead: Edit[] = names.length > 0 ? [{ kind: 'set-lead', track: 't0', lead: true }] : []
  return applyEdits(empty, [{ kind: 'add-tracks', tracks }, ...lead, ...edits])
}
