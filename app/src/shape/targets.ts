import type { Profile } from '@sober-prism/core/match'
import type { Session } from '@sober-prism/core/session'
import { MIX } from '@sober-prism/core/treatments'
import type { Desk, KeptProfile } from '@sober-prism/engine'

interface Running {
  readonly signal: AbortSignal
  readonly onProgress?: (share: number) => void
}

/** Something that a node can be held against. */
export interface Target {
  readonly key: string
  readonly name: string
  /** As it stands in a list. */
  readonly words: string
  /** Its notes are not those of the node: only the broad shape of the two can be compared. */
  readonly isOtherPiece: boolean
  profile(desk: Desk, running: Running): Promise<Profile | null>
}

/** Everything that a node can be held against: references first for the mix, other tracks first for a track. */
export function targetsOf(
  session: Session,
  node: string,
  library: readonly KeptProfile[],
): Target[] {
  const tracks = session.tracks
    .filter((t) => t.id !== node)
    .map(
      ({ id, name, letter }): Target => ({
        key: `track ${id}`,
        name,
        words: `track ${letter} ${name}`,
        isOtherPiece: node === MIX,
        profile: (desk, running) =>
          desk.ask.profile({ of: { node: id }, title: { name } }, running),
      }),
    )
  const references = session.references.map(
    ({ id, name }): Target => ({
      key: `reference ${id}`,
      name,
      words: `reference ${name}`,
      isOtherPiece: true,
      profile: (desk, running) =>
        desk.ask.profile({ of: { reference: id }, title: { name } }, running),
    }),
  )
  const profiles = library.map(
    ({ id, profile }): Target => ({
      key: `profile ${id}`,
      name: profile.name,
      words: `profile ${profile.name}`,
      isOtherPiece: true,
      profile: async () => profile,
    }),
  )
  return node === MIX
    ? [...references, ...profiles, ...tracks]
    : [...tracks, ...profiles, ...references]
}
