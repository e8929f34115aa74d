import { chainOf, type Edit, type Session } from '@sober-prism/core/session'
import type { Treatment } from '@sober-prism/core/treatments'
import { type AuditionMode, errorSentence, type SessionFinding } from '@sober-prism/engine'
import { useState } from 'react'
import { capital, formatTime } from '../format'
import { plumb } from '../plot/plumb'
import { useDesk, useHeard } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { openSession } from '../store/selectors'
import { store, useEdit, useSend } from '../store/store'
import { AmendMoves } from './amend-moves'
import { editsOf } from './move-edits'
import { findingWords, measureFigure, measureName } from './named-finding'
import { useAmended } from './use-amended'

interface FindingCardProps {
  readonly finding: SessionFinding
  readonly session: Session
  readonly open: boolean
  readonly onOpen: () => void
}

/** One finding: its title and harm; opened, the evidence, the proposed moves and what they would do. */
export function FindingCard({ finding: proposed, session, open, onOpen }: FindingCardProps) {
  const send = useSend()
  const edit = useEdit()
  const amending = useAmended(proposed)
  const { finding } = amending
  const words = findingWords(session, finding)
  const [dismissing, setDismissing] = useState(false)
  const apply = () => {
    const edits = editsOf(finding, words.title)
    edit(edits)
    show(edits[0])
    send(interfaceActions.noticeShown(`Done: ${words.moves.join('; ')}.`, 'info', 'edit'))
  }
  const show = (made: Edit | undefined) => {
    if (made?.kind === 'add-band') {
      const { node, stage, mark } = made
      const chain = chainOf(openSession(store.getState()), node)
      const holds = (t: Treatment) =>
        t.kind === 'equaliser' && t.params.bands.some((b) => b.id === mark.id)
      const treatmentId = chain?.treatments.find(holds)?.id ?? null
      send(interfaceActions.treatmentChosen({ node, treatmentId, bandId: mark.id, stage }))
    }
    if (made?.kind === 'add-treatment') {
      const { node, treatment } = made
      const { id, stage } = treatment
      send(interfaceActions.treatmentChosen({ node, treatmentId: id, stage }))
    }
  }
  return (
    <article
      className="finding"
      data-open={open}
      onPointerEnter={() => plumb.set(finding.hz)}
      onPointerLeave={() => plumb.set(null)}
    >
      <header>
        <h3>
          <button type="button" className="finding-title" aria-expanded={open} onClick={onOpen}>
            {words.title}
          </button>
        </h3>
        <span className="figure" title="Audible harm, by which findings are ranked">
          {finding.severity.toFixed(2)} sone
        </span>
      </header>
      <p className="where">{words.evidence}</p>
      {open && (
        <>
          <Proposal
            finding={finding}
            measured={proposed.predicted}
            session={session}
            moves={words.moves}
          />
          {amending.moves && (
            <AmendMoves
              moves={amending.moves}
              session={session}
              onChange={amending.change}
              onReset={amending.reset}
            />
          )}
          {dismissing ? (
            <DismissForm
              onCancel={() => setDismissing(false)}
              onDismiss={(reason) => {
                const { key, state } = finding
                edit([{ kind: 'dismiss', dismissed: { key, state, reason } }])
                send(interfaceActions.noticeShown('Finding dismissed.', 'info', 'edit'))
              }}
            />
          ) : (
            <div className="actions">
              <button
                type="button"
                className="primary"
                disabled={finding.moves.length === 0}
                onClick={apply}
              >
                Apply
              </button>
              {!amending.moves && (
                <button type="button" onClick={amending.begin}>
                  Amend
                </button>
              )}
              <button type="button" onClick={() => setDismissing(true)}>
                Dismiss
              </button>
              <HearButtons finding={finding} />
            </div>
          )}
        </>
      )}
    </article>
  )
}

function Proposal({
  finding,
  measured,
  session,
  moves,
}: {
  finding: SessionFinding
  /** What was measured before any move. */
  measured: SessionFinding['predicted']
  session: Session
  moves: readonly string[]
}) {
  const { predicted, times } = finding
  return (
    <>
      <p>
        {moves.map((sentence) => (
          <span key={sentence} className="proposal">
            {capital(sentence)}.{' '}
          </span>
        ))}
      </p>
      {measured && (
        <p>
          {capital(measureName(session, measured.measure))}:{' '}
          <b className="figure">
            {measureFigure(measured.measure, measured.before)} →{' '}
            {predicted ? measureFigure(measured.measure, predicted.after) : '…'}
          </b>
          , by the model on the treated sound.
        </p>
      )}
      {times.length > 0 && (
        <p className="where">
          Most at{' '}
          {times
            .map((t) => `${formatTime(t.fromSeconds)} to ${formatTime(t.toSeconds)}`)
            .join(', ')}
          .
        </p>
      )}
    </>
  )
}

const MODES: readonly (readonly [AuditionMode, string])[] = [
  ['forward', 'band forward'],
  ['moves', 'with it'],
  ['without', 'without'],
]

/** Lets the finding be heard: one button at first, then the three ways to listen. */
function HearButtons({ finding }: { finding: SessionFinding }) {
  const desk = useDesk()
  const send = useSend()
  const rendition = useHeard()?.rendition
  const hear = (mode: AuditionMode) =>
    desk
      .hear({ kind: 'finding', key: finding.key, mode }, finding)
      .catch((error) => send(interfaceActions.noticeShown(errorSentence(error), 'warning')))
  if (rendition?.kind !== 'finding' || rendition.key !== finding.key) {
    return (
      <button type="button" onClick={() => void hear('forward')}>
        Hear it
      </button>
    )
  }
  return (
    <fieldset className="hear" aria-label="Listen, all at equal loudness">
      {MODES.map(([mode, name]) => (
        <button
          key={mode}
          type="button"
          aria-pressed={rendition.mode === mode}
          onClick={() => void hear(mode)}
        >
          {name}
        </button>
      ))}
      <button type="button" className="plain" onClick={() => desk.stopHearing()}>
        Stop
      </button>
    </fieldset>
  )
}

const REASONS = ['It is meant to be so', 'It is not heard', 'Another move answers it'] as const

/** Why a finding is dismissed; the reason stands in the session. */
function DismissForm(props: { onDismiss: (reason: string) => void; onCancel: () => void }) {
  const [reason, setReason] = useState<string>(REASONS[0])
  return (
    <form
      className="dismiss"
      onSubmit={(event) => {
        event.preventDefault()
        props.onDismiss(reason.slice(0, 300))
      }}
    >
      <label>
        Reason
        <input
          type="text"
          list="dismiss-reasons"
          value={reason}
          maxLength={300}
          onChange={(e) => setReason(e.target.value)}
          onFocus={(e) => e.target.select()}
        />
      </label>
      <datalist id="dismiss-reasons">
        {REASONS.map((r) => (
          <option key={r} value={r} />
        ))}
      </datalist>
      <div className="actions">
        <button type="submit">Dismiss until the sound changes</button>
        <button type="button" className="plain" onClick={props.onCancel}>
          Cancel
        </button>
      </div>
    </form>
  )
}
