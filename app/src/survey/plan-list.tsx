import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Slider from '@mui/material/Slider'
import Typography from '@mui/material/Typography'
import {
  PLAN_GROUPS,
  type Plan,
  type PlanGroup,
  type PlanStep,
  USUAL_GROUPS,
} from '@sober-prism/core/findings'
import type { Edit, Session } from '@sober-prism/core/session'
import { errorSentence, isCancel } from '@sober-prism/engine'
import { lazy, Suspense } from 'react'
import { Pane } from '../controls/layout'
import { TickBox } from '../controls/tick-box'
import { measureFigure, measureName, moveWords } from '../findings/named-finding'
import { capital, formatShare, signed } from '../format'
import { useAnalysis, useDesk } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { nodeName } from '../store/selectors'
import { useSettledSession } from '../store/settled'
import { useAppDispatch, useAppSelector, useEdit } from '../store/store'
import { editsOfPlan } from './move-edits'
import { selectSurvey, surveyActions } from './survey-slice'

/** What the groups of a plan are called, in the order in which one goes to work. */
const GROUP_NAMES: Readonly<Record<PlanGroup, string>> = {
  'line-up': 'Alignment and mono low end',
  noise: 'Hum and rumble',
  resonances: 'Resonances',
  sibilants: 'Sibilance',
  faders: 'Faders',
  room: 'Room for the leads',
  tone: 'Tone of the mix',
  boosts: 'Boosts of leads',
}

const PlanCurve = lazy(() => import('./plan-curve'))

/** All that is offered as one plan, in the order in which one goes to work, and where to stop. */
export function PlanList() {
  const { plan } = useAnalysis('plan')
  return plan ? <PlanSteps plan={plan} /> : <PlanStart />
}

/** Makes the plan, of the groups that are wanted. */
function usePlanning() {
  const desk = useDesk()
  const dispatch = useAppDispatch()
  return (groups: readonly PlanGroup[]) => {
    desk.analyser.plan(groups).catch((error) => {
      if (isCancel(error)) return
      dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning'))
    })
  }
}

function PlanStart() {
  const session = useSettledSession()
  const { fresh, work } = useAnalysis('fresh', 'work')
  const plan = usePlanning()
  const hasLead = session.leadIds.length > 0
  return (
    <Pane>
      <Typography>
        Puts the moves of all findings in the order in which one goes to work, and foresees what
        they do together: at most 2 cuts per track to make room, up to 6 dB, track levels within 1.5
        LU. Leads are boosted only if you ask for it.
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
        onClick={() => plan(USUAL_GROUPS)}
      >
        Plan moves
      </Button>
    </Pane>
  )
}

function PlanSteps({ plan }: { plan: Plan }) {
  const session = useSettledSession()
  const { findings } = useAnalysis('findings')
  const dispatch = useAppDispatch()
  const edit = useEdit()
  const { planCount } = useAppSelector(selectSurvey)
  const lead = session.leadIds[0] ?? null
  const leadName = nodeName(session, lead ?? '')
  const { steps } = plan
  const count = Math.min(planCount ?? steps.length, steps.length)
  const share = (index: number) =>
    (index < 0 ? plan.heardBefore : steps[index].heard).get(lead ?? '') ?? 0
  const shares = [-1, ...steps.keys()].map(share)
  return (
    <Pane>
      {steps.length > 0 && (
        <>
          <Box sx={{ height: 150 }}>
            <Suspense>
              <PlanCurve shares={shares} count={count} name={leadName} />
            </Suspense>
          </Box>
          <Typography id="plan-count">
            Moves to apply: <Typography variant="figure">{count}</Typography>
          </Typography>
          <Typography variant="body2" color="textSecondary">
            {leadName} heard: {formatShare(share(-1), 1)} → {formatShare(share(count - 1), 1)}{' '}
            (predicted)
          </Typography>
          <Slider
            aria-label="Moves to apply"
            getAriaValueText={() =>
              `${count} moves, ${leadName} heard ${formatShare(share(count - 1), 1)}`
            }
            min={1}
            max={steps.length}
            sx={{ mx: 0.5, width: 'auto' }}
            value={count}
            onChange={(_, value) => dispatch(surveyActions.planCounted(value as number))}
          />
        </>
      )}
      <PlanGroups plan={plan} count={count} leadName={leadName} share={share} />
      {steps.length > 0 && <FadersNote plan={plan} />}
      <Button
        variant="contained"
        sx={{ justifySelf: 'start' }}
        disabled={steps.length === 0}
        onClick={() => {
          edit(editsOfPlan(plan, count, lead, findings ?? []))
          dispatch(interfaceActions.noticeShown(`${count} moves of the plan made.`, 'info', 'edit'))
        }}
      >
        {steps.length === 0
          ? 'Nothing to apply'
          : `Apply ${count === 1 ? 'the first move' : `the first ${count}`}`}
      </Button>
    </Pane>
  )
}

interface PlanGroupsProps {
  readonly plan: Plan
  readonly count: number
  readonly leadName: string
  /** What is heard of the lead after a step. */
  readonly share: (index: number) => number
}

/** The steps under their groups, each of which can be left out. */
function PlanGroups({ plan, count, leadName, share }: PlanGroupsProps) {
  const replan = usePlanning()
  return PLAN_GROUPS.map((group) => {
    const steps = plan.steps.flatMap((step, index) =>
      step.group === group ? [{ step, index }] : [],
    )
    const isIn = plan.groups.includes(group)
    // A group without moves is not worth a line, but for one that was left out.
    if (isIn && steps.length === 0) return null
    const wanted = PLAN_GROUPS.filter((g) => (g === group ? !isIn : plan.groups.includes(g)))
    return (
      <Box key={group} component="section" aria-label={GROUP_NAMES[group]}>
        <TickBox label={GROUP_NAMES[group]} checked={isIn} onChange={() => replan(wanted)} />
        <Box
          component="ol"
          start={(steps[0]?.index ?? 0) + 1}
          sx={{
            display: 'grid',
            gap: '6px',
            m: 0,
            pl: '26px',
            '& > [data-out="true"]': { opacity: 0.6 },
          }}
        >
          {steps.map(({ step, index }) => (
            <PlanStepLine
              key={step.findingKey ?? `boost ${index}`}
              step={step}
              out={index >= count}
              heard={`${leadName} heard ${formatShare(share(index), 1)}`}
            />
          ))}
        </Box>
      </Box>
    )
  })
}

function PlanStepLine({ step, out, heard }: { step: PlanStep; out: boolean; heard: string }) {
  const session = useSettledSession()
  const { findings } = useAnalysis('findings')
  const { group, findingKey, moves, costSone, levelsLu, nodes } = step
  const finding = findings?.find((f) => f.key === findingKey)
  const words = moves.map((move) => capital(moveWords(session, move)) + keyWords(session, move))
  const predicted = finding?.predicted
  const isRoom = group === 'room' || group === 'boosts'
  const levels = nodes.map((node, i) => `${nodeName(session, node)} ${signed(levelsLu[i], 1)} LU`)
  return (
    <li data-out={out}>
      <Typography>{words.join('. ')}.</Typography>
      <Typography variant="body2" color="textSecondary">
        {isRoom || !predicted
          ? `${heard}; costs ${costSone.toFixed(2)} sone; ${levels.join(', ')}`
          : `${capital(measureName(session, predicted.measure))}: ${measureFigure(predicted.measure, predicted.before)} → ${measureFigure(predicted.measure, predicted.after)}`}
      </Typography>
    </li>
  )
}

/** The track that a move follows. */
function keyWords(session: Session, move: Edit): string {
  const key = move.kind === 'add-treatment' ? move.treatment.key : null
  return key ? ` (${nodeName(session, key.node)})` : ''
}

function FadersNote({ plan }: { plan: Plan }) {
  return (
    <Typography color="textSecondary">
      {plan.isCutShort && 'Room ends at 8 moves. '}
      {plan.fadersDb === null
        ? null
        : `By faders alone, the other tracks would need −${plan.fadersDb.toFixed(1)} dB.`}
    </Typography>
  )
}
