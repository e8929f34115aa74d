import { SMALL_SONE } from '@sober-prism/core/findings'
import { type Move, type Session, STAGES } from '@sober-prism/core/session'
import { measureNow } from '@sober-prism/engine'
import { useState } from 'react'
import { capital, formatHz, signed } from '../format'
import { useAnalysis } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { ownerName, useSession } from '../store/selectors'
import { type ChainOwner, MIX, sessionActions } from '../store/session-slice'
import { useSend } from '../store/store'
import { FindingCard } from './finding-card'
import { measureFigure, measureName } from './named-finding'

/** All findings in order of harm, small ones folded away, and what was made of earlier ones. */
export function FindingList() {
  const session = useSession()
  const { findings, fresh } = useAnalysis()
  const send = useSend()
  const [open, setOpen] = useState<string | null>(null)
  const [showSmall, setShowSmall] = useState(false)
  const applied = appliedMoves(session)
  const large = (findings ?? []).filter((f) => f.severity >= SMALL_SONE)
  const small = (findings ?? []).filter((f) => f.severity < SMALL_SONE)
  const shown = showSmall ? [...large, ...small] : large
  const opened = open ?? shown[0]?.key
  return (
    <>
      {findings && large.length === 0 && fresh && (
        <p className="hint">Nothing stands in the way that a move would be worth.</p>
      )}
      {shown.map((finding) => (
        <FindingCard
          key={finding.key}
          finding={finding}
          session={session}
          open={finding.key === opened}
          onOpen={() => setOpen(finding.key)}
        />
      ))}
      {small.length > 0 && (
        <p>
          <button type="button" className="plain" onClick={() => setShowSmall(!showSmall)}>
            {showSmall ? 'Hide' : 'Show'} {small.length} smaller{' '}
            {small.length === 1 ? 'finding' : 'findings'}
          </button>
        </p>
      )}
      {session.dismissed.length > 0 && (
        <p className="hint">
          {session.dismissed.length} dismissed.{' '}
          <button
            type="button"
            className="plain"
            onClick={() => send(sessionActions.dismissedRecalled())}
          >
            Show again
          </button>
        </p>
      )}
      {applied.length > 0 && <h2>Moves made from findings</h2>}
      {applied.map((entry) => (
        <AppliedCard key={entry.move.id} {...entry} session={session} />
      ))}
    </>
  )
}

interface AppliedMove {
  readonly owner: ChainOwner
  readonly move: Move & { readonly evidence: NonNullable<Move['evidence']> }
}

function appliedMoves(session: Session): AppliedMove[] {
  const chains = [
    ...session.tracks.map((t) => ({ owner: t.id, chain: t.chain })),
    { owner: MIX, chain: session.mix.chain },
  ]
  return chains.flatMap(({ owner, chain }) =>
    STAGES.flatMap((stage) =>
      chain[stage].moves.flatMap((move) =>
        move.evidence ? [{ owner, move: { ...move, evidence: move.evidence } }] : [],
      ),
    ),
  )
}

function AppliedCard({ owner, move, session }: AppliedMove & { session: Session }) {
  const analysis = useAnalysis()
  const send = useSend()
  const { evidence, band } = move
  const { measure, before, predicted } = evidence
  const now = measureNow(measure, analysis)
  const gain = band.type === 'low-cut' ? 'low cut' : `${signed(band.db)} dB`
  return (
    <article className="finding applied">
      <header>
        <h3>
          {ownerName(session, owner)}, {gain} at {formatHz(band.hz)}
        </h3>
      </header>
      <p>
        {capital(measureName(session, measure))}: was {measureFigure(measure, before)}, predicted{' '}
        {measureFigure(measure, predicted)}; measured now, with all moves,{' '}
        <b data-stale={!analysis.fresh}>{measureFigure(measure, now)}</b>.
      </p>
      <div className="actions">
        <button
          type="button"
          onClick={() => send(interfaceActions.moveChosen({ owner, moveId: move.id }))}
        >
          Show
        </button>
        <button
          type="button"
          onClick={() => send(sessionActions.moveRemoved({ owner, moveId: move.id }))}
        >
          Remove
        </button>
      </div>
    </article>
  )
}
