import { type Routed, routedNode, type Session } from '@sober-prism/core/session'
import { MIX, type Treatment } from '@sober-prism/core/treatments'
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

/** The name of a track, a group or the mix. */
export function nodeName(session: Session, node: string): string {
  return node === MIX ? 'Mix' : (routedNode(session, node)?.name ?? '')
}

/** A track or group; null for the mix. */
export function nodeOf(session: Session, node: string): Routed | null {
  return routedNode(session, node)
}

/** Whose chain stands on the sheet: the chosen one if it still exists, else the mix. */
export function chosenNode(root: Root): string {
  const { chosen } = root.interface
  return chosen !== MIX && nodeOf(openSession(root), chosen) ? chosen : MIX
}

/**
 * The treatment that stands on the sheet: the chosen one, else the first of the chosen stage; null where the
 * stage has none.
 */
export function shownTreatment(
  treatments: readonly Treatment[],
  { treatmentId, stage }: Pick<Root['interface'], 'treatmentId' | 'stage'>,
): Treatment | null {
  return (
    treatments.find((t) => t.id === treatmentId) ??
    treatments.find((t) => t.stage === stage) ??
    null
  )
}
