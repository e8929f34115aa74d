import type { Edit, Role, Session } from '@sober-prism/core/session'
import { nodeOf } from '../store/selectors'

/** What can be switched on each of several tracks or groups. */
export type Switch = 'mute' | 'solo' | 'lift'

const nodesOf = (session: Session, ids: readonly string[]) =>
  ids.flatMap((id) => nodeOf(session, id) ?? [])

/** The tracks of a selection: groups have no role and do not lead. */
export function tracksOf(session: Session, ids: readonly string[]) {
  return session.tracks.filter((t) => ids.includes(t.id))
}

/** Whether all of them have it on. */
export function allHave(session: Session, ids: readonly string[], key: Switch): boolean {
  return nodesOf(session, ids).every((n) => n[key])
}

/** Switches it on for all, or off where all have it on. */
export function switched(session: Session, ids: readonly string[], key: Switch): Edit[] {
  const on = !allHave(session, ids, key)
  return nodesOf(session, ids).map(
    (n): Edit => ({ kind: 'set-node', node: n.id, change: { [key]: on } }),
  )
}

/** Whether all tracks of a selection lead. */
export function allLead(session: Session, ids: readonly string[]): boolean {
  return tracksOf(session, ids).every((t) => session.leadIds.includes(t.id))
}

/** Makes all of them leads, or none where all are. */
export function ledBy(session: Session, ids: readonly string[]): Edit[] {
  const lead = !allLead(session, ids)
  return tracksOf(session, ids).map((t): Edit => ({ kind: 'set-lead', track: t.id, lead }))
}

/** Gives all of them a role. */
export function withRole(session: Session, ids: readonly string[], role: Role): Edit[] {
  return tracksOf(session, ids).map(
    (t): Edit => ({ kind: 'set-node', node: t.id, change: { role } }),
  )
}

/** Puts their faders at 0 dB. */
export function fadersAtZero(session: Session, ids: readonly string[]): Edit[] {
  return nodesOf(session, ids).map(
    (n): Edit => ({ kind: 'set-node', node: n.id, change: { faderDb: 0 } }),
  )
}

/** Leads them into a new group. */
export function grouped(session: Session, ids: readonly string[]): Edit[] {
  const members = nodesOf(session, ids).map((n) => n.id)
  if (members.length === 0) return []
  const name = `Group ${session.groups.length + 1}`
  return [{ kind: 'add-group', id: crypto.randomUUID(), name, members }]
}
