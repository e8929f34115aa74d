import type { Finding } from '@sober-prism/core/findings'
import { chainOf, groupsAbove, type Session } from '@sober-prism/core/session'
import { MIX } from '@sober-prism/core/treatments'
import { hashOf } from './scheduler'

/** A finding with the fingerprint of the sound it was found in, and times on the session's time line. */
export interface SessionFinding extends Finding {
  readonly state: string
}

/** Share of each track's loudness that is heard, as it was measured. */
export type Shares = ReadonlyMap<string, { readonly share: number }>

/**
 * A prediction of a share told from where the track was measured to be: what a trial expects by itself differs from that
 * by a little, and one track has one share everywhere.
 */
export function anchored(predicted: Finding['predicted'], heard: Shares): Finding['predicted'] {
  if (predicted?.measure.of !== 'heard') return predicted
  const share = heard.get(predicted.measure.track)?.share
  if (share === undefined) return predicted
  return { ...predicted, before: share, after: shifted(predicted.after, share - predicted.before) }
}

/** A share moved by as much as another one, within 0 to 1. */
export function shifted(share: number, by: number): number {
  return Math.max(0, Math.min(1, share + by))
}

/** A finding under the key that it has in a session: the same for one fault while its place changes little. */
export function withSessionKey(finding: Finding): Finding {
  const { kind, tracks, hz } = finding
  return { ...finding, key: `${kind} ${tracks.join(' ')} ${Math.round(8 * Math.log2(hz))}` }
}

export function toSessionFinding(
  finding: Finding,
  session: Session,
  fromSeconds: number,
  heard: Shares,
): SessionFinding {
  return {
    ...finding,
    predicted: anchored(finding.predicted, heard),
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
      t.trimDb,
      t.offsetFrames,
      groupsAbove(session, t.id).map((g) => g.chain),
    ]),
    tracks.length === 0 ? chainOf(session, MIX) : null,
  ])
}
