import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import {
  type PassageReading,
  QUIET_PASSAGE_DB,
  SHORTEST_PASSAGE_SECONDS,
  UNLIKE_PASSAGE_DB,
} from '@sober-prism/core/match'
import { sessionFrames } from '@sober-prism/core/session'
import { useState } from 'react'
import { Running } from '../controls/running'
import { formatTime, signed } from '../format'
import { useDesk } from '../shell/desk-context'
import { useWork } from '../shell/use-asked'
import { interfaceActions } from '../store/interface-slice'
import { useSession } from '../store/selectors'
import { useAppDispatch, useEdit } from '../store/store'
import { named } from '../transport/kept-passages'
import { Passages } from './passages'
import { Section } from './section'

/** As long as a passage is proposed where none is chosen yet, in seconds. */
const USUAL_SECONDS = 24

interface Extremes {
  readonly quiet: PassageReading
  readonly full: PassageReading
}

interface Found {
  readonly chosen: PassageReading | null
  readonly proposed: PassageReading | null
  readonly extremes: Extremes | null
}

/** Whether the passage stands for the whole, and one that does. */
export function PassageCheck() {
  const session = useSession()
  const desk = useDesk()
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const [found, setFound] = useState<Found | null>(null)
  const { busy, trouble, run, stop } = useWork()
  const { passage, sampleRateHz } = session
  const seconds = passage ? (passage.toFrame - passage.fromFrame) / sampleRateHz : USUAL_SECONDS
  const look = () =>
    run(async (options) => {
      const atLeast = Math.max(SHORTEST_PASSAGE_SECONDS, seconds)
      setFound(await desk.ask.passage({ seconds: atLeast }, options))
    })
  const stretch = ({ fromSeconds, toSeconds }: PassageReading) => {
    const frames = sessionFrames(session)
    const at = (s: number) => Math.max(0, Math.min(frames, Math.round(s * sampleRateHz)))
    return { fromFrame: at(fromSeconds), toFrame: at(toSeconds) }
  }
  const take = (reading: PassageReading) => {
    edit([{ kind: 'set-session', change: { passage: stretch(reading) } }])
    setFound(null)
    dispatch(interfaceActions.noticeShown('Passage changed.', 'info', 'edit'))
  }
  const keepBoth = ({ quiet, full }: Extremes) => {
    const { passages } = session
    edit([
      { kind: 'add-passage', passage: named(passages, stretch(quiet), 'Quiet') },
      { kind: 'add-passage', passage: named(passages, stretch(full), 'Full') },
    ])
    setFound(null)
    dispatch(interfaceActions.noticeShown('Both passages saved.', 'info', 'edit'))
  }
  return (
    <Section of="passage" title="Passage" word="passage" says={saysOf(found)}>
      {busy === null ? (
        <Button data-command="passage" sx={{ justifySelf: 'start' }} onClick={() => void look()}>
          Is it representative?
        </Button>
      ) : (
        <Running what="Analysing the whole mix" share={busy} onCancel={stop} />
      )}
      <div aria-live="polite">
        {trouble && <Typography color="warning">{trouble}</Typography>}
        {found?.chosen && <Typography>{wordsOf(found.chosen)}</Typography>}
        {found && !found.proposed && <Typography>Only silence here.</Typography>}
        {found?.proposed && (
          <>
            <Typography variant="body2">
              Most representative: {formatTime(found.proposed.fromSeconds)} to{' '}
              {formatTime(found.proposed.toSeconds)}, {found.proposed.apartDb.toFixed(1)} dB from
              the whole spectrum, level {signed(found.proposed.louderDb)} dB.
            </Typography>
            <Button onClick={() => take(found.proposed as PassageReading)}>Use this passage</Button>
          </>
        )}
        {found?.extremes && (
          <>
            <Typography variant="body2">
              A quiet and a full passage: {placeOf(found.extremes.quiet)} and{' '}
              {placeOf(found.extremes.full)}.
            </Typography>
            <Button onClick={() => keepBoth(found.extremes as Extremes)}>Save both by name</Button>
          </>
        )}
      </div>
      <Passages />
    </Section>
  )
}

function saysOf(found: Found | null): string {
  return found?.chosen ? wordsOf(found.chosen) : 'Whether it stands for the whole piece'
}

function placeOf({ fromSeconds, toSeconds, louderDb }: PassageReading): string {
  return `${formatTime(fromSeconds)} to ${formatTime(toSeconds)} at ${signed(louderDb)} dB`
}

function wordsOf({ fromSeconds, toSeconds, apartDb, louderDb }: PassageReading): string {
  const seconds = toSeconds - fromSeconds
  const faults = [
    seconds < SHORTEST_PASSAGE_SECONDS ? `short, ${seconds.toFixed(1)} s` : null,
    louderDb < QUIET_PASSAGE_DB ? `quiet, ${signed(louderDb)} dB relative to the whole` : null,
    apartDb > UNLIKE_PASSAGE_DB
      ? `unlike the rest, ${apartDb.toFixed(1)} dB from the whole spectrum`
      : null,
  ].filter((f) => f !== null)
  return faults.length > 0
    ? `Not representative: ${faults.join('; ')}.`
    : `Representative: ${apartDb.toFixed(1)} dB from the whole spectrum, level ${signed(louderDb)} dB.`
}
