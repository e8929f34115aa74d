import { SMALL_SONE } from '@sober-prism/core/findings'
import type { Session } from '@sober-prism/core/session'
import { measureNow } from '@sober-prism/engine'
import { useState } from 'react'
import { capital } from '../format'
import { useAnalysis } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { nodeName, useSession } from '../store/selectors'
import { useEdit, useSend } from '../store/store'
import { type AppliedMove, appliedMoves, removalOf } from './applied-moves'
import { FindingCard } from './finding-card'
import { measureFigure, measureName } from './named-finding'

/** All findings in order of harm, small ones folded away, and what was made of earlier ones. */
export function FindingList() {
  const session = useSession()
  const { findings, fresh } = useAnalysis()
  const edit = useEdit()
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
            onClick={() => edit([{ kind: 'recall-dismissed' }])}
          >
            Show again
          </button>
        </p>
      )}
      {applied.length > 0 && <h2>Moves made from findings</h2>}
      {applied.map((move) => (
        <AppliedCard key={move.id} move={move} session={session} />
      ))}
    </>
  )
}

function AppliedCard({ move, session }: { move: AppliedMove; session: Session }) {
  const analysis = useAnalysis()
  const send = useSend()
  const edit = useEdit()
  const { node, treatment, band, does } = move
  const { measure, before, predicted } = move.evidence
  const now = measureNow(measure, analysis)
  return (
    <article className="finding applied">
      <header>
        <h3>
          {nodeName(session, node)}, {does}
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
          onClick={() =>
            send(interfaceActions.treatmentChosen({ node, treatmentId: treatment, bandId: band }))
          }
        >
          Show
        </button>
        <button type="button" onClick={() => edit([removalOf(move)])}>
          Remove
        </button>
      </div>
    </article>
  )
}
