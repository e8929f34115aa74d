import Autocomplete from '@mui/material/Autocomplete'
import Button from '@mui/material/Button'
import ButtonBase from '@mui/material/ButtonBase'
import TextField from '@mui/material/TextField'
import ToggleButton from '@mui/material/ToggleButton'
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup'
import Typography from '@mui/material/Typography'
import { chainOf, type Edit, type Session } from '@sober-prism/core/session'
import type { Treatment } from '@sober-prism/core/treatments'
import { type AuditionMode, errorSentence, type SessionFinding } from '@sober-prism/engine'
import { memo, useEffect, useRef, useState } from 'react'
import { Link } from 'react-router'
import { Entry, EntryHead, Row } from '../controls/layout'
import { WORDS } from '../controls/words'
import { findingWords, measureFigure, measureName } from '../findings/named-finding'
import { capital, formatTime } from '../format'
import { plumb } from '../plot/plumb'
import { useAnalysis, useDesk, useHeard } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { openSession } from '../store/selectors'
import { store, useAppDispatch, useEdit } from '../store/store'
import { AmendMoves } from './amend-moves'
import { editsOf } from './move-edits'
import { useAmended } from './use-amended'

interface FindingCardProps {
  readonly finding: SessionFinding
  readonly session: Session
  readonly open: boolean
  readonly onOpen: (key: string) => void
}

/** Findings whose moves were made. They stand in the list until the session is measured anew. */
const applied = new WeakSet<SessionFinding>()

/** One finding: its title and harm; opened, the evidence, the proposed moves and what they would do. */
export const FindingCard = memo(function FindingCard(props: FindingCardProps) {
  const { finding: proposed, session, open, onOpen } = props
  const dispatch = useAppDispatch()
  const edit = useEdit()
  const amending = useAmended(proposed)
  const { finding } = amending
  const words = findingWords(session, finding)
  const [dismissing, setDismissing] = useState(false)
  const card = useRef<HTMLElement>(null)
  // It may be opened from a picture while the list is elsewhere.
  useEffect(() => {
    if (open) card.current?.scrollIntoView?.({ block: 'nearest' })
  }, [open])
  const { fresh } = useAnalysis('fresh')
  // Undone, it is offered again.
  const isMade = applied.has(proposed) && !fresh
  const apply = () => {
    applied.add(proposed)
    const edits = editsOf(finding, words.title)
    edit(edits)
    show(edits[0])
    dispatch(interfaceActions.noticeShown(`Applied: ${words.moves.join('; ')}.`, 'info', 'edit'))
  }
  const show = (made: Edit | undefined) => {
    if (made?.kind === 'add-band') {
      const { node, stage, chainBand } = made
      const chain = chainOf(openSession(store.getState()), node)
      const holds = (t: Treatment) =>
        t.kind === 'equaliser' && t.params.bands.some((b) => b.id === chainBand.id)
      const treatmentId = chain?.treatments.find(holds)?.id ?? null
      dispatch(interfaceActions.treatmentChosen({ node, treatmentId, bandId: chainBand.id, stage }))
    }
    if (made?.kind === 'add-treatment') {
      const { node, treatment } = made
      const { id, stage } = treatment
      dispatch(interfaceActions.treatmentChosen({ node, treatmentId: id, stage }))
    }
  }
  const dismiss = (reason: string) => {
    const { key, state } = finding
    edit([{ kind: 'dismiss', dismissed: { key, state, reason } }])
    dispatch(interfaceActions.noticeShown('Finding dismissed.', 'info', 'edit'))
  }
  return (
    <Entry
      ref={card}
      data-open={open}
      onPointerEnter={() => plumb.set(finding.hz)}
      onPointerLeave={() => plumb.set(null)}
    >
      <EntryHead>
        <Typography variant="h3">
          <ButtonBase
            aria-expanded={open}
            onClick={() => onOpen(proposed.key)}
            sx={{ font: 'inherit', textAlign: 'left' }}
          >
            {words.title}
          </ButtonBase>
        </Typography>
        <Typography
          variant="figure"
          sx={{ flex: 'none' }}
          title={`Audible harm in sones. Sone: ${WORDS.sone}.`}
        >
          {finding.severity.toFixed(2)} sone
        </Typography>
      </EntryHead>
      <Typography variant="body2" color="textSecondary">
        {words.evidence}
      </Typography>
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
            <DismissForm onCancel={() => setDismissing(false)} onDismiss={dismiss} />
          ) : (
            <Row>
              {proposed.moves.length > 0 ? (
                <Button
                  variant="contained"
                  data-command="apply-finding"
                  disabled={finding.moves.length === 0 || isMade}
                  onClick={apply}
                >
                  {isMade ? 'Applied, measuring…' : 'Apply'}
                </Button>
              ) : (
                <Button
                  variant="contained"
                  data-command="apply-finding"
                  component={Link}
                  to="../clean"
                  relative="path"
                  onClick={() => dispatch(interfaceActions.nodeChosen(finding.tracks[0]))}
                >
                  Hunt in Clean
                </Button>
              )}
              {proposed.moves.length > 0 && !amending.moves && (
                <Button onClick={amending.begin}>Adjust</Button>
              )}
              <Button data-command="dismiss-finding" onClick={() => setDismissing(true)}>
                Dismiss
              </Button>
              {finding.kind === 'masking' && finding.tracks.length > 1 && (
                <Button
                  variant="text"
                  component={Link}
                  to="../fit"
                  relative="path"
                  onClick={() => dispatch(interfaceActions.nodeChosen(finding.tracks[0]))}
                >
                  Dynamic EQ in Fit
                </Button>
              )}
              <HearButtons finding={finding} />
            </Row>
          )}
        </>
      )}
    </Entry>
  )
})

/** Why nothing is proposed, and what to do instead. */
function withoutMove({ tracks }: SessionFinding, session: Session): string {
  const isStruck = session.tracks.some((t) => tracks.includes(t.id) && t.role === 'drums')
  return isStruck
    ? 'Drums and cymbals ring by nature: listen, and hunt for it only if it stands out.'
    : 'Too uncertain to be cut unheard: listen, and hunt for it if you hear it.'
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
      <Typography>
        {moves.length > 0
          ? moves.map((sentence) => `${capital(sentence)}.`).join(' ')
          : withoutMove(finding, session)}
      </Typography>
      {measured && (
        <Typography>
          {capital(measureName(session, measured.measure))}:{' '}
          <Typography variant="figure" component="b">
            {measureFigure(measured.measure, measured.before)} →{' '}
            {predicted ? measureFigure(measured.measure, predicted.after) : '…'}
          </Typography>{' '}
          (predicted).
        </Typography>
      )}
      {times.length > 0 && (
        <Typography variant="body2" color="textSecondary">
          Most at{' '}
          {times
            .map((t) => `${formatTime(t.fromSeconds)} to ${formatTime(t.toSeconds)}`)
            .join(', ')}
          .
        </Typography>
      )}
    </>
  )
}

const MODES: readonly (readonly [AuditionMode, string])[] = [
  ['forward', 'Band boosted'],
  ['moves', 'With move'],
  ['without', 'Without move'],
]

/** Lets the finding be heard: one button at first, then the three ways to listen. */
function HearButtons({ finding }: { finding: SessionFinding }) {
  const desk = useDesk()
  const dispatch = useAppDispatch()
  const rendition = useHeard()?.rendition
  const hear = (mode: AuditionMode) =>
    desk
      .hear({ kind: 'finding', key: finding.key, mode }, finding)
      .catch((error) => dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning')))
  if (rendition?.kind !== 'finding' || rendition.key !== finding.key) {
    return (
      <Button data-command="listen-finding" onClick={() => void hear('forward')}>
        Listen
      </Button>
    )
  }
  return (
    <ToggleButtonGroup
      exclusive
      value={rendition.mode}
      aria-label="Listen, all at equal loudness"
      onChange={(_, mode: AuditionMode | null) => (mode ? void hear(mode) : desk.stopHearing())}
    >
      {MODES.map(([mode, name]) => (
        <ToggleButton key={mode} value={mode}>
          {name}
        </ToggleButton>
      ))}
      <Button variant="text" onClick={() => desk.stopHearing()}>
        Stop
      </Button>
    </ToggleButtonGroup>
  )
}

const REASONS = ['Intended', 'Inaudible', 'Solved by another move'] as const

/** Why a finding is dismissed; the reason stands in the session. */
function DismissForm(props: { onDismiss: (reason: string) => void; onCancel: () => void }) {
  const [reason, setReason] = useState<string>(REASONS[0])
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault()
        props.onDismiss(reason.slice(0, LONGEST_REASON))
      }}
    >
      <Autocomplete
        freeSolo
        disableClearable
        options={REASONS}
        filterOptions={(all) => all}
        inputValue={reason}
        onInputChange={(_, text) => setReason(text)}
        renderInput={(params) => (
          <TextField
            {...params}
            label="Reason"
            variant="standard"
            onFocus={(e) => (e.target as HTMLInputElement).select()}
          />
        )}
      />
      <Row>
        <Button type="submit">Dismiss until the sound changes</Button>
        <Button variant="text" onClick={props.onCancel}>
          Cancel
        </Button>
      </Row>
    </form>
  )
}

const LONGEST_REASON = 300
