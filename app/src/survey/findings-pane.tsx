import { type Move, type Session, STAGES } from '@sober-prism/core/session'
import type { SessionFinding } from '@sober-prism/engine'
import { formatHz, formatShare, signed } from '../format'
import { plumb } from '../plot/plumb'
import { useAnalysis, useDesk } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { ownerName, useSession } from '../store/selectors'
import { sessionActions } from '../store/session-slice'
import { useSend } from '../store/store'

/** What covers the lead, worst first, and what the moves made for it did. */
export function FindingsPane() {
  const session = useSession()
  const analysis = useAnalysis()
  const desk = useDesk()
  const send = useSend()
  const { findings, work, problem, fresh } = analysis
  const lead = session.tracks.find((t) => t.id === session.leadId)
  const heard = lead ? analysis.heard.get(lead.id) : undefined
  const applied = appliedMoves(session)
  return (
    <aside className="findings" aria-label="Findings">
      <div className="lead-row">
        <label>
          Lead
          <select
            value={session.leadId ?? ''}
            onChange={(e) => send(sessionActions.leadChosen(e.target.value || null))}
          >
            <option value="">none</option>
            {session.tracks.map((t) => (
              <option key={t.id} value={t.id}>
                {t.letter} {t.name}
              </option>
            ))}
          </select>
        </label>
        {heard && (
          <span className="figure" data-stale={!fresh}>
            {formatShare(heard.share)} heard
          </span>
        )}
      </div>
      <div className="work-row" aria-live="polite">
        {work ? (
          <>
            <span>{work.what}</span>
            <progress value={work.share} max={1} aria-label={work.what} />
            <button type="button" className="plain" onClick={() => desk.analyser.cancel()}>
              Stop
            </button>
          </>
        ) : problem ? (
          <>
            <span className="problem">{problem}</span>
            <button type="button" className="plain" onClick={() => desk.analyser.restart()}>
              Measure
            </button>
          </>
        ) : (
          <span className="hint">
            {fresh
              ? `Measured over ${session.passage ? 'the passage' : 'the whole piece'}, heard at ${session.listeningDbSpl} dB SPL for −23 LUFS`
              : 'Waiting for changes to settle'}
          </span>
        )}
      </div>
      <div className="finding-scroll">
        {!lead && <p className="hint">Choose a lead to see what covers it.</p>}
        {lead && findings?.length === 0 && fresh && (
          <p className="hint">Nothing covers {lead.name} that a move would be worth.</p>
        )}
        {findings?.map((finding, index) => (
          <FindingCard key={finding.key} finding={finding} session={session} first={index === 0} />
        ))}
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
      </div>
    </aside>
  )
}

interface FindingCardProps {
  readonly finding: SessionFinding
  readonly session: Session
  readonly first: boolean
}

function FindingCard({ finding, session, first }: FindingCardProps) {
  const send = useSend()
  const lead = ownerName(session, finding.leadId)
  const masker = ownerName(session, finding.maskerId)
  const { move, predicted } = finding
  const apply = () => {
    const id = crypto.randomUUID()
    const made: Move = {
      id,
      on: true,
      band: move,
      reason: `so that ${lead} is heard`.slice(0, 500),
      evidence: {
        findingKey: finding.key,
        lead: finding.leadId,
        heardBefore: predicted.leadBefore,
        heardPredicted: predicted.leadAfter,
      },
    }
    send(sessionActions.moveAdded({ owner: finding.maskerId, stage: 'fit', move: made }))
    send(interfaceActions.moveChosen({ owner: finding.maskerId, moveId: id, stage: 'fit' }))
    send(interfaceActions.noticeShown(`${masker} cut at ${formatHz(move.hz)}.`, 'info', 'edit'))
  }
  return (
    <article
      className="finding"
      data-first={first}
      onPointerEnter={() => plumb.set(finding.hz)}
      onPointerLeave={() => plumb.set(null)}
    >
      <header>
        <h3>
          {masker} covers {lead}
        </h3>
        <span className="figure">{finding.lostSone.toFixed(2)} sone</span>
      </header>
      <p className="where">
        {formatHz(finding.fromHz)} to {formatHz(finding.toHz)},{' '}
        {finding.where === 'sides' ? 'at the sides' : 'in the middle'};{' '}
        {formatShare(finding.lostShare)} of {lead} is lost there
      </p>
      <p>
        Cut {masker} at {formatHz(move.hz)} by {Math.abs(move.db)} dB, Q {move.q}. {lead} is heard{' '}
        <b>
          {formatShare(predicted.leadBefore, 1)} → {formatShare(predicted.leadAfter, 1)}
        </b>
        ; {masker} keeps {formatShare(predicted.maskerAfter, 1)} of{' '}
        {formatShare(predicted.maskerBefore, 1)}.
      </p>
      <div className="actions">
        <button type="button" className="primary" onClick={apply}>
          Apply
        </button>
        <button
          type="button"
          onClick={() => {
            send(sessionActions.findingDismissed(finding.key))
            send(interfaceActions.noticeShown('Finding dismissed.', 'info', 'edit'))
          }}
        >
          Dismiss
        </button>
      </div>
    </article>
  )
}

interface AppliedMove {
  readonly owner: string
  readonly move: Move & { readonly evidence: NonNullable<Move['evidence']> }
}

function appliedMoves(session: Session): AppliedMove[] {
  return session.tracks.flatMap((track) =>
    STAGES.flatMap((stage) =>
      track.chain[stage].moves.flatMap((move) =>
        move.evidence ? [{ owner: track.id, move: { ...move, evidence: move.evidence } }] : [],
      ),
    ),
  )
}

function AppliedCard({ owner, move, session }: AppliedMove & { session: Session }) {
  const analysis = useAnalysis()
  const send = useSend()
  const { evidence, band } = move
  const now = analysis.heard.get(evidence.lead)
  const masker = ownerName(session, owner)
  return (
    <article className="finding applied">
      <header>
        <h3>
          {masker} {signed(band.db)} dB at {formatHz(band.hz)}
        </h3>
      </header>
      <p>
        {ownerName(session, evidence.lead)} was heard {formatShare(evidence.heardBefore, 1)},
        predicted {formatShare(evidence.heardPredicted, 1)}; measured now, with all moves,{' '}
        <b data-stale={!analysis.fresh}>{now ? formatShare(now.share, 1) : '–'}</b>.
      </p>
      <div className="actions">
        <button
          type="button"
          onClick={() =>
            send(interfaceActions.moveChosen({ owner, moveId: move.id, stage: 'fit' }))
          }
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
