import Button from '@mui/material/Button'
import Tab from '@mui/material/Tab'
import Tabs from '@mui/material/Tabs'
import ToggleButton from '@mui/material/ToggleButton'
import Typography from '@mui/material/Typography'
import { memo } from 'react'
import { Choice } from '../controls/choice'
import { FigureField } from '../controls/figure-field'
import { Row } from '../controls/layout'
import { Running } from '../controls/running'
import { Term } from '../controls/term'
import { useAnalysis, useDesk } from '../shell/desk-context'
import { useSettledSession } from '../store/settled'
import { useAppDispatch, useAppSelector, useEdit } from '../store/store'
import { CoveringTable } from './covering-table'
import { FindingList } from './finding-list'
import { PlanList } from './plan-list'
import { SURVEY_TABS, type SurveyTab, selectSurvey, surveyActions } from './survey-slice'

/** What stands in the way of clarity, who covers whom, and the plan for the whole. */
export function FindingsPane() {
  const { tab } = useAppSelector(selectSurvey)
  const { findings } = useAnalysis('findings')
  return (
    <>
      <Leads />
      <WorkRow />
      <PaneTabs tab={tab} findings={findings?.filter((f) => f.offered).length ?? null} />
      <div
        id="survey-panel"
        data-skip="panel"
        role="tabpanel"
        tabIndex={-1}
        aria-labelledby={tabId(tab)}
      >
        {tab === 'Findings' && <FindingList />}
        {tab === 'Masking' && <CoveringTable />}
        {tab === 'Plan' && <PlanList />}
      </div>
    </>
  )
}

const PaneTabs = memo(function PaneTabs(props: { tab: SurveyTab; findings: number | null }) {
  const { tab, findings } = props
  const dispatch = useAppDispatch()
  return (
    <Tabs
      value={tab}
      aria-label="Survey"
      sx={{ px: 0.75, flex: 'none' }}
      onChange={(_, next: SurveyTab) => dispatch(surveyActions.tabChosen(next))}
    >
      {SURVEY_TABS.map((name) => (
        <Tab
          key={name}
          value={name}
          id={tabId(name)}
          data-command={`tab-${name.toLowerCase()}`}
          aria-controls="survey-panel"
          label={
            <Term word={TAB_WORDS[name]}>
              {name === 'Findings' && findings !== null ? `${name} ${findings}` : name}
            </Term>
          }
        />
      ))}
    </Tabs>
  )
})

const TAB_WORDS = { Findings: 'finding', Masking: 'mask', Plan: 'plan' } as const

function tabId(name: SurveyTab): string {
  return `survey-tab-${name.replaceAll(' ', '-')}`
}

/** Which tracks the others make room for, and how loud the session is heard. */
const Leads = memo(function Leads() {
  const session = useSettledSession()
  const edit = useEdit()
  return (
    <Row sx={{ flex: 'none', alignItems: 'start', p: '2px 14px 8px' }}>
      <Typography id="leads-label" variant="h3" component="span" sx={{ lineHeight: '22px' }}>
        <Term word="lead">Leads</Term>
      </Typography>
      <Row
        sx={{
          flex: '1 1 210px',
          gap: '2px',
          // Many tracks scroll: what is found stays in view.
          maxHeight: 72,
          overflowY: 'auto',
          '& > button': {
            minWidth: 22,
            minHeight: 22,
            height: 22,
            p: '0 3px',
            typography: 'figure',
          },
        }}
        role="group"
        aria-labelledby="leads-label"
      >
        {session.tracks.map((t) => (
          <ToggleButton
            key={t.id}
            value={t.id}
            selected={session.leadIds.includes(t.id)}
            aria-label={`${t.name} leads`}
            title={`${t.name}: a lead must be heard, the others make room for it`}
            onClick={() =>
              edit([{ kind: 'set-lead', track: t.id, lead: !session.leadIds.includes(t.id) }])
            }
          >
            {t.letter}
          </ToggleButton>
        ))}
      </Row>
      <FigureField
        label="Listening level at −23 LUFS"
        value={session.listeningDbSpl}
        format={(v) => v.toFixed(0)}
        limits={[55, 90]}
        step={(v, direction, fine) => v + direction * (fine ? 1 : 5)}
        unit="dB SPL"
        characters={3}
        showLabel={false}
        onChange={(dbSpl, gesture) =>
          edit([{ kind: 'set-session', change: { listeningDbSpl: Math.round(dbSpl) } }], {
            gesture,
          })
        }
      />
      <Choice
        label="Listening on"
        value={session.listening}
        options={[
          ['speakers', 'Loudspeakers'],
          ['headphones', 'Headphones'],
        ]}
        onChange={(listening) => edit([{ kind: 'set-session', change: { listening } }])}
      />
    </Row>
  )
})

/** What is being measured, with a way to stop it; or over what it was measured. */
function WorkRow() {
  const session = useSettledSession()
  const { work, problem, fresh, mono } = useAnalysis('work', 'problem', 'fresh', 'mono')
  const desk = useDesk()
  if (work) {
    return (
      <Row
        sx={{ flex: 'none', flexWrap: 'nowrap', minHeight: '34px', px: '14px' }}
        data-testid="measuring"
      >
        <Running
          what={work.what}
          share={work.share}
          cancelText="Stop"
          onCancel={() => desk.analyser.cancel()}
        />
      </Row>
    )
  }
  return (
    <Row
      sx={{ flex: 'none', flexWrap: 'nowrap', minHeight: '34px', px: '14px' }}
      aria-live="polite"
    >
      <Typography variant="body2" color={problem ? 'warning' : 'textSecondary'}>
        {problem ??
          (fresh
            ? `Measured over ${session.passage ? 'the passage' : 'the whole piece'}${mono ? ', in mono' : ''}`
            : 'Waiting for changes')}
      </Typography>
      {problem && (
        <Button variant="text" onClick={() => desk.analyser.restart()}>
          Measure
        </Button>
      )}
    </Row>
  )
}
