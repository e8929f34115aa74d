import { groupsAbove, type Session } from '@sober-prism/core/session'
import type { Analysis } from '@sober-prism/engine'

const FALLBACK_DB = -24

/** The level of full ink on all track strips: the loudest band of any track at its fader, in dB. */
export function topLevelDb(session: Session, { tracks }: Pick<Analysis, 'tracks'>): number {
  let top = Number.NEGATIVE_INFINITY
  for (const track of session.tracks) {
    const above = groupsAbove(session, track.id)
    if (track.mute || above.some((g) => g.mute)) continue
    const gainDb = above.reduce((sum, g) => sum + g.faderDb, track.faderDb)
    for (const db of tracks.get(track.id)?.levels ?? []) top = Math.max(top, db + gainDb)
  }
  return Number.isFinite(top) ? top : FALLBACK_DB
}

/** The loudest band of one spectrum, in dB. */
export function topOf(levels: ArrayLike<number> | undefined): number {
  let top = Number.NEGATIVE_INFINITY
  for (let i = 0; i < (levels?.length ?? 0); i++) top = Math.max(top, levels?.[i] ?? top)
  return Number.isFinite(top) ? top : FALLBACK_DB
}
