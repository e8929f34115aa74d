import {
  type Group,
  groupsAbove,
  ROLES,
  type Routed,
  type Session,
  type Track,
} from '@sober-prism/core/session'
import { MIX } from '@sober-prism/core/treatments'
import type { TrackOrder } from '../store/interface-slice'

/** A row of the list of tracks. */
export type TrackRowOf = {
  readonly node: Routed
  /** How deep in groups it stands. */
  readonly depth: number
} & (
  | { readonly kind: 'track'; readonly node: Track }
  | { readonly kind: 'group'; readonly node: Group }
)

export interface TrackView {
  readonly order: TrackOrder
  /** Words in a name, a letter or a role. */
  readonly filter: string
  readonly folded: readonly string[]
  /** How much of each track's loudness is lost to the others, in sone. */
  readonly lostSone: (track: string) => number
}

/** With more rows than that, groups stand folded until one is opened by hand. */
const MOST_UNFOLDED = 24

/** Groups whose members are not shown. @param byHand null where none was folded or unfolded: then by how many rows there are, and never the chosen one's. */
export function foldedGroups(
  session: Session,
  byHand: readonly string[] | null,
  chosen: string,
): readonly string[] {
  if (byHand) return byHand
  if (session.tracks.length + session.groups.length <= MOST_UNFOLDED) return []
  const open = groupsAbove(session, chosen).map((g) => g.id)
  return session.groups.map((g) => g.id).filter((id) => !open.includes(id))
}

/**
 * The tracks as they are listed: those of a group under it, unless it is folded. By role and by what they lose they
 * stand in one list, groups at its end.
 */
export function trackRows(session: Session, view: TrackView): readonly TrackRowOf[] {
  const wanted = view.filter.trim().toLowerCase()
  // What is looked for is found in folded groups, too.
  const folded = wanted === '' ? view.folded : []
  const rows = view.order === 'hand' ? inGroups(session, folded) : inOneList(session, view)
  return wanted === '' ? rows : rows.filter((row) => holds(row, wanted))
}

function inOneList(session: Session, { order, lostSone }: TrackView): TrackRowOf[] {
  const value = (t: Track) => (order === 'role' ? ROLES.indexOf(t.role) : -lostSone(t.id))
  const tracks = [...session.tracks].sort((a, b) => value(a) - value(b))
  return [
    ...tracks.map((node) => ({ kind: 'track', node, depth: 0 }) as const),
    ...session.groups.map((node) => ({ kind: 'group', node, depth: 0 }) as const),
  ]
}

function inGroups(session: Session, folded: readonly string[]): TrackRowOf[] {
  const shown = new Set<string>()
  const under = (output: string, depth: number): TrackRowOf[] =>
    session.tracks.flatMap((track): TrackRowOf[] => {
      // A group stands where its first track does.
      const node = ancestorAt(session, track, output)
      if (!node || shown.has(node.id)) return []
      shown.add(node.id)
      if (node.id === track.id) return [{ kind: 'track', node: track, depth }]
      const group = node as Group
      const members = folded.includes(group.id) ? [] : under(group.id, depth + 1)
      return [{ kind: 'group', node: group, depth }, ...members]
    })
  const rows = under(MIX, 0)
  const empty = session.groups.filter(
    (g) => !shown.has(g.id) && !session.tracks.some((t) => flowsThrough(session, t, g.id)),
  )
  return [...rows, ...empty.map((node) => ({ kind: 'group', node, depth: 0 }) as const)]
}

/** The node on a track's way that goes right into `output`; null when the track does not come there. */
function ancestorAt(session: Session, track: Track, output: string): Routed | null {
  let node: Routed = track
  while (node.output !== output) {
    const next = session.groups.find((g) => g.id === node.output)
    if (!next) return null
    node = next
  }
  return node
}

function flowsThrough(session: Session, track: Track, group: string): boolean {
  return ancestorAt(session, track, group) !== null
}

function holds({ kind, node }: TrackRowOf, words: string): boolean {
  const role = kind === 'track' ? node.role : 'group'
  return [node.name, node.letter, role].some((text) => text.toLowerCase().includes(words))
}
