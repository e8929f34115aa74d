import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { SMALL_SONE } from '@sober-prism/core/findings'
import { isFindingKey, type Session } from '@sober-prism/core/session'
import { measureNow, type SessionFinding } from '@sober-prism/engine'
import { useCallback } from 'react'
import { Entry, EntryHead, Pane, Row } from '../controls/layout'
import { findingWords, measureFigure, measureName } from '../findings/named-finding'
import { capital } from '../format'
import { plumb } from '../plot/plumb'
import { useAnalysis } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { nodeName } from '../store/selectors'
import { useSettledSession } from '../store/settled'
import { useAppDispatch, useAppSelector, useEdit } from '../store/store'
import { type AppliedMove, appliedMoves, removalOf } from './applied-moves'
import { FindingCard } from './finding-card'
import { selectSurvey, surveyActions } from './survey-slice'

/** What is offered in order of harm, on request what was only measured, and what was made of earlier findings. */
export function FindingList() {
  const session = useSettledSession()
  const { findings, fresh } = useAnalysis('findings', 'fresh')
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const open = useAppSelector((root) => root.interface.finding)
  const { showMeasured } = useAppSelector(selectSurvey)
  const onOpen = useCallback(
    (key: string) => void dispatch(interfaceActions.findingOpened(key)),
    [dispatch],
  )
  const applied = appliedMoves(session)
  const dismissed = session.dismissed.filter((d) => isFindingKey(d.key)).length
  const offered = (findings ?? []).filter((f) => f.offered)
  const measured = (findings ?? []).filter((f) => !f.offered)
  const opened = open ?? offered[0]?.key
  return (
    <>
      {findings === null && (
        <Typography color="textSecondary" sx={{ p: '10px 14px' }}>
          Findings appear here once measured, worst first.
        </Typography>
      )}
      {findings && fresh && offered.every((f) => f.severity < SMALL_SONE) && (
        <Typography sx={{ p: '10px 14px' }}>
          The session is in order
          {offered.length > 0 ? '; what follows is small.' : ': no finding is worth a move.'}
        </Typography>
      )}
      {offered.map((finding) => (
        <FindingCard
          key={finding.key}
          finding={finding}
          session={session}
          open={finding.key === opened}
          onOpen={onOpen}
        />
      ))}
      <Pane>
        {measured.length > 0 && (
          <Button
            variant="text"
            sx={{ justifySelf: 'start' }}
            aria-expanded={showMeasured}
            onClick={() => dispatch(surveyActions.measuredShown())}
          >
            {showMeasured ? 'Hide' : 'Show'} all that was measured ({measured.length})
          </Button>
        )}
        {dismissed > 0 && (
          <Typography color="textSecondary">
            {dismissed} dismissed.{' '}
            <Button variant="text" onClick={() => edit([{ kind: 'recall-dismissed' }])}>
              Show again
            </Button>
          </Typography>
        )}
        {showMeasured && measured.length > 0 && (
          <Typography variant="body2" color="textSecondary">
            No move would change enough of these to be heard.
          </Typography>
        )}
      </Pane>
      {showMeasured &&
        measured.map((f) => <MeasuredCard key={f.key} finding={f} session={session} />)}
      <Pane>{applied.length > 0 && <Typography variant="h2">Moves made</Typography>}</Pane>
      {applied.map((move) => (
        <AppliedCard key={move.id} move={move} session={session} />
      ))}
    </>
  )
}

/** What was measured and is not worth a move. */
function MeasuredCard({ finding, session }: { finding: SessionFinding; session: Session }) {
  const { title, evidence } = findingWords(session, finding)
  return (
    <Entry onPointerEnter={() => plumb.set(finding.hz)} onPointerLeave={() => plumb.set(null)}>
      <EntryHead>
        <Typography variant="h3" color="textSecondary">
          {title}
        </Typography>
        <Typography variant="figure" color="textSecondary" sx={{ flex: 'none' }}>
          {finding.severity.toFixed(2)} sone
        </Typography>
      </EntryHead>
      <Typography variant="body2" color="textSecondary">
        {evidence}
      </Typography>
    </Entry>
  )
}

function AppliedCard({ move, session }: { move: AppliedMove; session: Session }) {
  const analysis = useAnalysis('heard', 'cancelled', 'tracks', 'mix', 'fresh')
  const dispatch = useAppDispatch()
  const edit = useEdit()
  const { node, treatment, band, does } = move
  const { measure, before, predicted } = move.evidence
  const now = measureNow(measure, analysis)
  return (
    <Entry>
      <Typography variant="h3">
        {nodeName(session, node)}, {does}
      </Typography>
      <Typography>
        {capital(measureName(session, measure))}: was {measureFigure(measure, before)}, predicted{' '}
        {measureFigure(measure, predicted)}; measured now, with all moves,{' '}
        <b data-stale={!analysis.fresh}>{measureFigure(measure, now)}</b>.
      </Typography>
      <Row>
        <Button
          onClick={() =>
            dispatch(
              interfaceActions.treatmentChosen({ node, treatmentId: treatment, bandId: band }),
            )
          }
        >
          Show
        </Button>
        <Button onClick={() => edit([removalOf(move)])}>Remove</Button>
      </Row>
    </Entry>
  )
}
