import { type KeyboardEvent, useId, useState } from 'react'
import { FigureField } from '../figure-field'
import { useAnalysis, useDesk } from '../shell/desk-context'
import { useSession } from '../store/selectors'
import { useEdit } from '../store/store'
import { CoveringTable } from './covering-table'
import { FindingList } from './finding-list'
import { PlanList } from './plan-list'

const TABS = ['Findings', 'Who covers whom', 'Plan'] as const
type Tab = (typeof TABS)[number]

/** What stands in the way of clarity, who covers whom, and the plan for the whole. */
export function FindingsPane() {
  const [tab, setTab] = useState<Tab>('Findings')
  const { findings } = useAnalysis()
  const panel = useId()
  const onKeyDown = (event: KeyboardEvent) => {
    const step = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0
    if (step === 0) return
    event.preventDefault()
    const next = TABS[(TABS.indexOf(tab) + step + TABS.length) % TABS.length]
    setTab(next)
    document.getElementById(`${panel}-${next}`)?.focus()
  }
  return (
    <aside className="findings" aria-label="Findings">
      <Leads />
      <WorkRow />
      <div className="pane-tabs" role="tablist" aria-label="Survey" onKeyDown={onKeyDown}>
        {TABS.map((name) => (
          <button
            key={name}
            id={`${panel}-${name}`}
            type="button"
            role="tab"
            aria-selected={tab === name}
            aria-controls={panel}
            tabIndex={tab === name ? 0 : -1}
            onClick={() => setTab(name)}
          >
            {name}
            {name === 'Findings' && findings ? (
              <span className="figure"> {findings.length}</span>
            ) : null}
          </button>
        ))}
      </div>
      <div
        className="finding-scroll"
        id={panel}
        role="tabpanel"
        aria-labelledby={`${panel}-${tab}`}
      >
        {tab === 'Findings' && <FindingList />}
        {tab === 'Who covers whom' && <CoveringTable />}
        {tab === 'Plan' && <PlanList />}
      </div>
    </aside>
  )
}

/** Which tracks the others make room for, and how loud the session is heard. */
function Leads() {
  const session = useSession()
  const edit = useEdit()
  return (
    <div className="lead-row">
      <span id="leads-label">Leads</span>
      <fieldset className="lead-badges" aria-labelledby="leads-label">
        {session.tracks.map((t) => (
          <button
            key={t.id}
            type="button"
            className="badge"
            data-lead={session.leadIds.includes(t.id)}
            aria-pressed={session.leadIds.includes(t.id)}
            aria-label={`${t.name} leads`}
            title={t.name}
            onClick={() =>
              edit([{ kind: 'set-lead', track: t.id, lead: !session.leadIds.includes(t.id) }])
            }
          >
            {t.letter}
          </button>
        ))}
      </fieldset>
      <FigureField
        label="Heard at, for −23 LUFS"
        value={session.listeningDbSpl}
        format={(v) => v.toFixed(0)}
        limits={[55, 90]}
        step={(v, direction, fine) => v + direction * (fine ? 1 : 5)}
        unit="dB SPL"
        showLabel={false}
        onChange={(dbSpl, gesture) =>
          edit([{ kind: 'set-session', change: { listeningDbSpl: Math.round(dbSpl) } }], {
            gesture,
          })
        }
      />
    </div>
  )
}

/** What is being measured, with a way to stop it; or over what it was measured. */
function WorkRow() {
  const session = useSession()
  const { work, problem, fresh, mono } = useAnalysis()
  const desk = useDesk()
  return (
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
            ? `Measured over ${session.passage ? 'the passage' : 'the whole piece'}${mono ? ', folded to mono' : ''}`
            : 'Waiting for changes to settle'}
        </span>
      )}
    </div>
  )
}
