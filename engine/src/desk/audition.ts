import { LIFT_DB } from '@sober-prism/core/chain'
import { type Move, newBand, type Session } from '@sober-prism/core/session'
import type { SessionFinding, SessionMove } from '../analysis/session-finding'

/** What is heard of a finding: its band brought forward, its moves in, or the session as it stands. */
export type AuditionMode = 'forward' | 'moves' | 'without'

/** How far a band is brought forward, in dB. */
const FORWARD_DB = LIFT_DB + 3

/** The session as it sounds for an audition. */
export function auditionSession(
  session: Session,
  finding: SessionFinding,
  mode: AuditionMode,
): Session {
  if (mode === 'without') return session
  if (mode === 'moves') return finding.moves.reduce(withMove, session)
  const { hz, fromHz, toHz } = finding
  const q = Math.max(0.5, Math.min(12, hz / Math.max(1, toHz - fromHz)))
  const band = { ...newBand('bell', Math.max(20, Math.min(20000, hz))), db: FORWARD_DB, q }
  const owners = finding.tracks.length > 0 ? finding.tracks : ['mix']
  return owners.reduce<Session>(
    (s, owner) => withMove(s, { kind: 'band', owner, stage: 'shape', band }),
    session,
  )
}

/** The session with one more move. */
export function withMove(session: Session, move: SessionMove): Session {
  if (move.kind === 'align') {
    return mapTrack(session, move.owner, (track) => {
      const { output } = track.chain
      const flipped = output.polarity === 'normal' ? 'inverted' : 'normal'
      const polarity = move.invert ? flipped : output.polarity
      return {
        ...track,
        offsetFrames: track.offsetFrames + move.shiftFrames,
        chain: { ...track.chain, output: { ...output, polarity } },
      }
    })
  }
  const added: Move = { id: 'audition', on: true, band: move.band, reason: '', evidence: null }
  const extend = (chain: Session['mix']['chain']) => ({
    ...chain,
    [move.stage]: { on: true, moves: [...chain[move.stage].moves, added] },
  })
  if (move.owner === 'mix') {
    return { ...session, mix: { ...session.mix, chain: extend(session.mix.chain) } }
  }
  return mapTrack(session, move.owner, (t) => ({ ...t, chain: extend(t.chain) }))
}

function mapTrack(
  session: Session,
  id: string,
  change: (track: Session['tracks'][number]) => Session['tracks'][number],
): Session {
  return { ...session, tracks: session.tracks.map((t) => (t.id === id ? change(t) : t)) }
}
