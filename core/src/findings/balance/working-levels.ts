import type { Edit, Role, Session } from '../../session'

/** The loudness to which trims bring every track, so that faders stand alike: room for 20 dB of peaks. */
export const WORKING_LUFS = -24
/** Trims and faders are proposed in steps of this. */
const STEP_DB = 0.5
const LEAST_CHANGE_DB = 1
const MOST_TRIM_DB = 24
const HIGHEST_FADER_DB = 12
const LOWEST_FADER_DB = -60

/**
 * Where a fader stands in a rough balance, beside a lead's, in dB: a place to begin, by common practice. What leads
 * stands at 0 whatever its role; tracks of one role share its level, so that six microphones of a kit are no louder
 * than one recording of it.
 */
const ROLE_FADERS_DB: Readonly<Record<Role, number>> = {
  voice: -4,
  speech: -4,
  drums: -3,
  bass: -4,
  guitar: -7,
  keys: -8,
  strings: -8,
  winds: -7,
  ambience: -16,
  other: -8,
}

/** Gated loudness of tracks through their chains, before their faders, by id, in LUFS; silent ones are missing. */
export type TrackLoudness = ReadonlyMap<string, number>

/** A working level for one track. */
export interface ProposedLevel {
  readonly track: string
  readonly lufs: number
  /** What its trim is raised by. */
  readonly trimDb: number
  readonly faderDb: number
}

/**
 * A trim per track that brings its gated loudness to {@link WORKING_LUFS}, and faders of a rough balance by role.
 * Tracks that are muted or silent are left alone.
 */
export function proposeLevels(session: Session, loudness: TrackLoudness): readonly ProposedLevel[] {
  const leads = (id: string) => session.leadIds.includes(id)
  const sharing = new Map<Role, number>()
  for (const { id, role, mute } of session.tracks) {
    if (!mute && loudness.has(id) && !leads(id)) sharing.set(role, (sharing.get(role) ?? 0) + 1)
  }
  const faderOf = (role: Role) =>
    stepped(ROLE_FADERS_DB[role] - 10 * Math.log10(sharing.get(role) ?? 1))
  return session.tracks.flatMap((track): ProposedLevel[] => {
    const lufs = loudness.get(track.id)
    if (lufs === undefined || track.mute) return []
    const wanted = stepped(WORKING_LUFS - lufs)
    const held = Math.max(-MOST_TRIM_DB, Math.min(MOST_TRIM_DB, wanted))
    const trimDb = Math.abs(held) < LEAST_CHANGE_DB ? 0 : held
    return [{ track: track.id, lufs, trimDb, faderDb: leads(track.id) ? 0 : faderOf(track.role) }]
  })
}

/** What makes working levels: one step of undo. */
export function levelEdits(levels: readonly ProposedLevel[]): Edit[] {
  return levels.flatMap(({ track, trimDb, faderDb }): Edit[] => [
    ...(trimDb === 0 ? [] : [{ kind: 'change-trim', node: track, db: trimDb } as const]),
    { kind: 'set-node', node: track, change: { faderDb } },
  ])
}

/**
 * How far the leads stand over the rest, in LU: loudness at the faders, summed as powers, as sounds that have nothing
 * in common add up. Null without a lead, or without anything beside it.
 */
export function leadOverRest(session: Session, loudness: TrackLoudness): number | null {
  let [lead, rest] = [0, 0]
  for (const track of session.tracks) {
    const lufs = loudness.get(track.id)
    if (lufs === undefined || track.mute) continue
    const power = 10 ** ((lufs + track.faderDb + groupFadersDb(session, track.output)) / 10)
    if (session.leadIds.includes(track.id)) lead += power
    else rest += power
  }
  return lead > 0 && rest > 0 ? 10 * Math.log10(lead / rest) : null
}

/** Moves the leads' faders so that they stand `lu` over the rest; what their faders have no room for, the rest gives. */
export function setLeadOverRest(session: Session, loudness: TrackLoudness, lu: number): Edit[] {
  const now = leadOverRest(session, loudness)
  if (now === null) return []
  const by = Math.round(10 * (lu - now)) / 10
  const isLead = (id: string) => session.leadIds.includes(id)
  const leads = session.tracks.filter((t) => isLead(t.id))
  const room = Math.min(...leads.map((t) => HIGHEST_FADER_DB - t.faderDb))
  const up = Math.min(by, room)
  const move = (node: string, faderDb: number): Edit => ({
    kind: 'set-node',
    node,
    change: { faderDb: Math.max(LOWEST_FADER_DB, Math.round(10 * faderDb) / 10) },
  })
  return [
    ...leads.map((t) => move(t.id, t.faderDb + up)),
    ...(by > up
      ? session.tracks.filter((t) => !isLead(t.id)).map((t) => move(t.id, t.faderDb - (by - up)))
      : []),
  ]
}

function groupFadersDb(session: Session, output: string): number {
  let db = 0
  for (let g = session.groups.find((n) => n.id === output); g; ) {
    db += g.faderDb
    const next: string = g.output
    g = session.groups.find((n) => n.id === next)
  }
  return db
}

function stepped(db: number): number {
  return Math.round(db / STEP_DB) * STEP_DB
}
