import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { SMALL_SONE } from '@sober-prism/core/findings'
import type { Session } from '@sober-prism/core/session'
import { measureNow } from '@sober-prism/engine'
import { useCallback } from 'react'
import { Entry, Pane, Row } from '../controls/layout'
import { measureFigure, measureName } from '../findings/named-finding'
import { capital } from '../format'
import { useAnalysis } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { nodeName } from '../store/selectors'
import { useSettledSession } from '../store/settled'
import { useAppDispatch, useAppSelector, useEdit } from '../store/store'
import { type AppliedMove, appliedMoves, removalOf } from './applied-moves'
import { FindingCard } from './finding-card'
import { selectSurvey, surveyActions } from './survey-slice'

/** All findings in order of harm, small ones folded away, and what was made of earlier ones. */
export function FindingList() {
  const session = useSettledSession()
  const { findings, fresh } = useAnalysis('findings', 'fresh')
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const open = useAppSelector((root) => root.interface.finding)
  const { showSmall } = useAppSelector(selectSurvey)
  const onOpen = useCallback(
    (key: string) => void dispatch(interfaceActions.findingOpened(key)),
    [dispatch],
  )
  const applied = appliedMoves(session)
  const large = (findings ?? []).filter((f) => f.severity >= SMALL_SONE)
  const small = (findings ?? []).filter((f) => f.severity < SMALL_SONE)
  const shown = showSmall ? [...large, ...small] : large
  const opened = open ?? shown[0]?.key
  return (
    <>
      {findings === null && (
        <Typography color="textSecondary" sx={{ p: '10px 14px' }}>
          Findings appear here once measured, worst first.
        </Typography>
      )}
      {findings && large.length === 0 && fresh && (
        <Typography color="textSecondary" sx={{ p: '10px 14px' }}>
          No finding is worth a move.
        </Typography>
      )}
      {shown.map((finding) => (
        <FindingCard
          key={finding.key}
          finding={finding}
          session={session}
          open={finding.key === opened}
          onOpen={onOpen}
        />
      ))}
      <Pane>
        {small.length > 0 && (
          <Button
            variant="text"
            sx={{ justifySelf: 'start' }}
            onClick={() => dispatch(surveyActions.smallShown())}
          >
            {showSmall ? 'Hide' : 'Show'} {small.length} smaller{' '}
            {small.length === 1 ? 'finding' : 'findings'}
          </Button>
        )}
        {session.dismissed.length > 0 && (
          <Typography color="textSecondary">
            {session.dismissed.length} dismissed.{' '}
            <Button variant="text" onClick={() => edit([{ kind: 'recall-dismissed' }])}>
              Show again
            </Button>
          </Typography>
        )}
        {applied.length > 0 && <Typography variant="h2">Moves made</Typography>}
      </Pane>
      {applied.map((move) => (
        <AppliedCard key={move.id} move={move} session={session} />
      ))}
    </>
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
