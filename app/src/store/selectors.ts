import { chainOf, type Routed, routedNode, type Session } from '@sober-prism/core/session'
import { type ChainBand, MIX, type Treatment } from '@sober-prism/core/treatments'
import { type RootState, useAppSelector } from './store'

/** The open session. For use below the session's route, where there always is one. */
export function useSession(): Session {
  return useAppSelector(openSession)
}

/**
 * The open session for what reads nothing of its chains: stays the same object while only they change, as they do with
 * each step of a drag. Its chains may be old.
 */
export function useRouting(): Session {
  return useAppSelector(openSession, differInChainsAlone)
}

function differInChainsAlone(a: Session, b: Session): boolean {
  return (
    a === b ||
    (isAlike(a, b, ['tracks', 'groups', 'mix']) &&
      a.mix.faderDb === b.mix.faderDb &&
      areAlike(a.tracks, b.tracks) &&
      areAlike(a.groups, b.groups))
  )
}

function areAlike(a: readonly Routed[], b: readonly Routed[]): boolean {
  return a.length === b.length && a.every((node, i) => isAlike(node, b[i], ['chain']))
}

/** Whether two objects of one type hold the same but for some of their fields. */
function isAlike<T extends object>(a: T, b: T, but: readonly (keyof T)[]): boolean {
  const names = Object.keys(a) as (keyof T)[]
  return a === b || names.every((name) => but.includes(name) || a[name] === b[name])
}

export function openSession(root: RootState): Session {
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
export function chosenNode(root: RootState): string {
  const { chosen } = root.interface
  return chosen !== MIX && nodeOf(openSession(root), chosen) ? chosen : MIX
}

/** Everything that is chosen: the node on the sheet, and those besides it. */
export function chosenNodes(root: RootState): readonly string[] {
  const session = openSession(root)
  return [chosenNode(root), ...root.interface.alsoChosen.filter((id) => nodeOf(session, id))]
}

/** The tracks and groups to which something is done that is done to one: all that are selected where it is one of them. */
export function selectedWith(root: RootState, node: string): readonly string[] {
  const selected = chosenNodes(root)
  return selected.includes(node) ? selected.filter((id) => id !== MIX) : [node]
}

/**
 * The treatment that stands on the sheet: the chosen one, else the first of the chosen stage; null where the
 * stage has none.
 */
export function shownTreatment<T extends Pick<Treatment, 'id' | 'stage'>>(
  treatments: readonly T[],
  { treatmentId, stage }: Pick<RootState['interface'], 'treatmentId' | 'stage'>,
): T | null {
  return (
    treatments.find((t) => t.id === treatmentId) ??
    treatments.find((t) => t.stage === stage) ??
    null
  )
}

/** The bands that are chosen on a node's sheet, as they stand in their equaliser. */
export function chosenBands(root: RootState, node: string): readonly ChainBand[] {
  const { bandId, alsoBands } = root.interface
  const treatments = chainOf(openSession(root), node)?.treatments ?? []
  for (const treatment of treatments) {
    if (treatment.kind !== 'equaliser') continue
    const { bands } = treatment.params
    if (!bands.some((m) => m.id === bandId)) continue
    return bands.filter((m) => m.id === bandId || alsoBands.includes(m.id))
  }
  return []
}

/** The row of a node in the live readings: tracks, then groups, then the mix. */
export function liveLine(session: Session, node: string): number {
  const order = [...session.tracks, ...session.groups]
  const at = order.findIndex((n) => n.id === node)
  return at < 0 ? order.length : at
}
