import type { Finding } from '@sober-prism/core/findings'
import { chainOf, groupsAbove, type Session } from '@sober-prism/core/session'
import { MIX } from '@sober-prism/core/treatments'
import { hashOf } from './scheduler'

/** A finding with the fingerprint of the sound it was found in, and times on the session's time line. */
export interface SessionFinding extends Finding {
  readonly state: string
}

export function toSessionFinding(
  finding: Finding,
  session: Session,
  fromSeconds: number,
): SessionFinding {
  return {
    ...finding,
    key: `${finding.kind} ${finding.tracks.join(' ')} ${Math.round(8 * Math.log2(finding.hz))}`,
    state: soundState(session, finding.tracks),
    times: finding.times.map((t) => ({
      fromSeconds: t.fromSeconds + fromSeconds,
      toSeconds: t.toSeconds + fromSeconds,
    })),
  }
}

/**
 * Fingerprint of the sound and treatments of some tracks, or of everything for none: a dismissed finding comes
 * back when it changes.
 */
export function soundState(session: Session, tracks: readonly string[]): string {
  const concerned = session.tracks.filter((t) => tracks.length === 0 || tracks.includes(t.id))
  return hashOf([
    concerned.map((t) => [
      t.audio.hash,
      t.chain,
      t.offsetFrames,
      groupsAbove(session, t.id).map((g) => g.chain),
    ]),
    tracks.length === 0 ? chainOf(session, MIX) : null,
  ])
}
