import type { Session, Track } from '@sober-prism/core/session'
import { type ChainOwner, MIX } from './session-slice'
import { type Root, useRoot } from './store'

/** The open session. For use below the session's route, where there always is one. */
export function useSession(): Session {
  return useRoot(openSession)
}

export function openSession(root: Root): Session {
  const { present } = root.session
  if (!present) throw new Error('No session is open.')
  return present
}

/** The name of a chain's owner. */
export function ownerName(session: Session, owner: ChainOwner): string {
  return owner === MIX ? 'Mix' : (trackOf(session, owner)?.name ?? '')
}

export function trackOf(session: Session, owner: ChainOwner): Track | null {
  return session.tracks.find((t) => t.id === owner) ?? null
}

/** Whose chain stands on the sheet: the chosen one if it still exists, else the mix. */
export function chosenOwner(root: Root): ChainOwner {
  const { chosen } = root.interface
  return chosen !== MIX && trackOf(openSession(root), chosen) ? chosen : MIX
}
