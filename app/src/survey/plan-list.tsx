import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Slider from '@mui/material/Slider'
import Typography from '@mui/material/Typography'
import { type Plan, planEdits } from '@sober-prism/core/findings'
import { errorSentence, isCancel } from '@sober-prism/engine'
import { lazy, Suspense } from 'react'
import { Pane } from '../controls/layout'
import { moveWords } from '../findings/named-finding'
import { capital, formatShare, signed } from '../format'
import { useAnalysis, useDesk } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { nodeName } from '../store/selectors'
import { useSettledSession } from '../store/settled'
import { useAppDispatch, useAppSelector, useEdit } from '../store/store'
import { editsOfPlan } from './move-edits'
import { selectSurvey, surveyActions } from './survey-slice'

/** Why a plan ends where it does. */
const ENDS: Record<Plan['end'], string> = {
  'little-left': 'No other move would gain the leads enough for its cost.',
  bends: 'The next move would gain little compared with the first.',
  'enough-moves': 'Stopped at the limit of 8 moves.',
}

const PlanCurve = lazy(() => import('./plan-curve'))

/** The shortest list of moves that wins most clarity, and where to stop. */
export function PlanList() {
  const { plan } = useAnalysis('plan')
  if (!plan) return <PlanStart />
  if (plan.steps.length === 0) {
    return (
      <Typography sx={{ p: '10px 14px' }}>
        No move would gain the leads enough to be worth making.
      </Typography>
    )
  }
  return <PlanSteps plan={plan} />
}

function PlanStart() {
  const session = useSettledSession()
  const desk = useDesk()
  const dispatch = useAppDispatch()
  const { fresh, work } = useAnalysis('fresh', 'work')
  const hasLead = session.leadIds.length > 0
  const begin = () =>
    desk.analyser.plan().catch((error) => {
      if (isCancel(error)) return
      dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning'))
    })
  return (
    <Pane>
      <Typography>
        Finds the fewest moves that bring the leads forward: at most 2 per track, cuts up to 6 dB,
        lead boosts up to 3 dB, track levels within 1.5 LU.
      </Typography>
      {!hasLead && (
        <Typography color="textSecondary">
          No lead selected. Tick Lead in Gather, or a letter above, for the tracks that must be
          heard.
        </Typography>
      )}
      <Button
        variant="contained"
        data-command="plan"
        sx={{ justifySelf: 'start' }}
        disabled={!fresh || work !== null || !hasLead}
        onClick={() => void begin()}
      >
        Plan moves
      </Button>
    </Pane>
  )
}

function PlanSteps({ plan }: { plan: Plan }) {
  const session = useSettledSession()
  const dispatch = useAppDispatch()
  const edit = useEdit()
  const { planCount } = useAppSelector(selectSurvey)
  const lead = session.leadIds[0] ?? null
  const leadName = nodeName(session, lead ?? '')
  const count = Math.min(planCount ?? plan.steps.length, plan.steps.length)
  const share = (index: number) =>
    (index < 0 ? plan.heardBefore : plan.steps[index].heard).get(lead ?? '') ?? 0
  const shares = [-1, ...plan.steps.keys()].map(share)
  return (
    <Pane>
      <Box sx={{ height: 150 }}>
        <Suspense>
          <PlanCurve shares={shares} count={count} name={leadName} />
        </Suspense>
      </Box>
      <Typography id="plan-count">
        Moves to apply: <Typography variant="figure">{count}</Typography>
      </Typography>
      <Slider
        aria-label="Moves to apply"
        getAriaValueText={() =>
          `${count} moves, ${leadName} heard ${formatShare(share(count - 1), 1)}`
        }
        min={1}
        max={plan.steps.length}
        sx={{ mx: 0.5, width: 'auto' }}
        value={count}
        onChange={(_, value) => dispatch(surveyActions.planCounted(value as number))}
      />
      <Box
        component="ol"
        sx={{
          display: 'grid',
          gap: '8px',
          m: 0,
          pl: '22px',
          '& > [data-out="true"]': { opacity: 0.6 },
        }}
      >
        {plan.steps.map((step, index) => (
          <li key={`${step.node} ${step.band.hz} ${step.band.q}`} data-out={index >= count}>
            <Typography>
              {capital(moveWords(session, planEdits(step)[0]))}
              {step.follows !== null && ` (${nodeName(session, step.follows)})`}
              {step.outputDb > 0 ? `, output +${step.outputDb.toFixed(1)} dB` : ''}.
            </Typography>
            <Typography variant="body2" color="textSecondary">
              {leadName} heard {formatShare(share(index), 1)}; costs the track{' '}
              {step.costSone.toFixed(2)} sone; level{' '}
              {`${step.levelLu > 0 ? '+' : ''}${signed(step.levelLu, 1)}`} LU
            </Typography>
          </li>
        ))}
      </Box>
      <Typography color="textSecondary">
        {ENDS[plan.end]}
        {plan.fadersDb === null
          ? ' Faders alone could not match this.'
          : ` By faders alone, the other tracks would need −${plan.fadersDb.toFixed(1)} dB.`}
      </Typography>
      <Button
        variant="contained"
        sx={{ justifySelf: 'start' }}
        onClick={() => {
          edit(editsOfPlan(plan, count, lead))
          dispatch(interfaceActions.noticeShown(`${count} moves of the plan made.`, 'info', 'edit'))
        }}
      >
        Apply {count === 1 ? 'the first move' : `the first ${count}`}
      </Button>
    </Pane>
  )
}
