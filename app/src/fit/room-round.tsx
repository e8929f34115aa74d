import Button from '@mui/material/Button'
import ToggleButton from '@mui/material/ToggleButton'
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup'
import Typography from '@mui/material/Typography'
import type { Edit } from '@sober-prism/core/session'
import { useEffect, useMemo, useRef } from 'react'
import { Entry, PlainList, Row } from '../controls/layout'
import { TickBox } from '../controls/tick-box'
import { formatShare } from '../format'
import { selectSheet, sheetActions } from '../sheet/sheet-slice'
import { useAnalysis } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { chosenNode, nodeName, openSession, useRouting } from '../store/selectors'
import { sessionActions } from '../store/session-slice'
import { store, useAppDispatch, useAppSelector } from '../store/store'
import { fitActions, selectFit } from './fit-slice'

/** Worst neighbours that are named beside the track in work. */
const NEIGHBOURS = 3
/** A change of what is heard that is worth a word. */
const LEAST_CHANGE = 0.005

/** The tracks in turn: each is lifted while one works on it, its worst neighbours stand behind its sheet and are one key away, and the end tells what changed. */
export function RoomRound() {
  const session = useRouting()
  const { heard, covering } = useAnalysis('heard', 'covering')
  const dispatch = useAppDispatch()
  const { round } = useAppSelector(selectFit)
  const isMono = useAppSelector((root) => root.interface.listening.position === 'mono')
  const current = round?.order[round.at] ?? null
  const chosen = useAppSelector(chosenNode)
  const worst = useMemo(
    () =>
      covering
        .filter((c) => c.targetId === current)
        .sort((a, b) => b.lostSone - a.lostSone)
        .slice(0, NEIGHBOURS),
    [covering, current],
  )
  /** The neighbour whose sheet was looked at last: a key goes there and back. */
  const beside = useRef<string | null>(null)
  useEffect(() => {
    beside.current = null
    if (round) lift(current)
    if (current) dispatch(interfaceActions.nodeChosen(current))
  }, [round, current, dispatch])
  useEffect(() => {
    if (current && chosen !== current && worst.some((c) => c.maskerId === chosen)) {
      beside.current = chosen
    }
  }, [chosen, current, worst])
  // Each stands behind the other's sheet.
  useEffect(() => {
    if (!current) return
    dispatch(sheetActions.ghostsChosen([current, ...worst.map((c) => c.maskerId)]))
  }, [current, worst, dispatch])
  useEffect(() => {
    if (!round) return
    const onKey = (event: KeyboardEvent) => {
      if (!event.altKey || !['n', 'p', 'o'].includes(event.key)) return
      event.preventDefault()
      if (event.key !== 'o') return dispatch(fitActions.roundMoved(event.key === 'n' ? 1 : -1))
      const other = beside.current ?? worst[0]?.maskerId
      if (current && other) {
        dispatch(interfaceActions.nodeChosen(chosen === current ? other : current))
      }
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [round, current, chosen, worst, dispatch])
  const begin = () => {
    const lost = (id: string) => {
      const of = heard.get(id)
      return of ? of.aloneSone - of.inMixSone : 0
    }
    const tracks = session.tracks.filter((t) => !t.mute && heard.has(t.id))
    const order = tracks.map((t) => t.id).sort((a, b) => lost(b) - lost(a))
    const before = Object.fromEntries(order.map((id) => [id, heard.get(id)?.share ?? 1]))
    const { ghosts } = selectSheet(store.getState())
    dispatch(fitActions.roundBegun({ order, before, ghosts }))
  }
  const end = () => {
    lift(null)
    dispatch(sheetActions.ghostsChosen(round?.ghosts ?? []))
    dispatch(fitActions.roundEnded())
  }
  if (!round) {
    return (
      <Entry as="section" aria-label="Round">
        <Typography variant="h2">Manual round</Typography>
        <Typography variant="body2" color="textSecondary">
          Work through the tracks, most masked first; the current one is lifted 6 dB.
        </Typography>
        <Button
          data-command="round"
          sx={{ justifySelf: 'start' }}
          disabled={heard.size < 2}
          onClick={begin}
        >
          Start round
        </Button>
      </Entry>
    )
  }
  const mono = (
    <TickBox
      label="In mono"
      checked={isMono}
      onChange={() => dispatch(interfaceActions.positionSwitched('mono'))}
    />
  )
  if (!current) {
    const changed = round.order.flatMap((id) => {
      const now = heard.get(id)?.share
      const then = round.before[id]
      return now === undefined || Math.abs(now - then) < LEAST_CHANGE ? [] : [{ id, then, now }]
    })
    return (
      <Entry as="section" aria-label="Round">
        <Typography variant="h2">The round is done</Typography>
        {changed.length === 0 ? (
          <Typography>Nothing changed in what is heard.</Typography>
        ) : (
          <PlainList>
            {changed.map(({ id, then, now }) => (
              <li key={id}>
                {nodeName(session, id)}: heard {formatShare(then)} → {formatShare(now)}
              </li>
            ))}
          </PlainList>
        )}
        <Row>
          {mono}
          <Button variant="text" onClick={() => dispatch(fitActions.roundMoved(-1))}>
            Back
          </Button>
          <Button onClick={end}>Close</Button>
        </Row>
      </Entry>
    )
  }
  return (
    <Entry as="section" aria-label="Round">
      <Typography variant="h2">
        {round.at + 1} of {round.order.length}: {nodeName(session, current)}
      </Typography>
      <Typography>
        {formatShare(heard.get(current)?.share ?? 1)} of it is heard.
        {worst.length > 0 && ' On the sheet, with its strongest maskers:'}
      </Typography>
      <ToggleButtonGroup
        exclusive
        value={chosen}
        aria-label="On the sheet"
        title="Alt O: to the other and back"
        onChange={(_, node: string | null) => node && dispatch(interfaceActions.nodeChosen(node))}
      >
        <ToggleButton value={current}>{nodeName(session, current)}</ToggleButton>
        {worst.map(({ maskerId, share }) => (
          <ToggleButton key={maskerId} value={maskerId}>
            {nodeName(session, maskerId)}, {formatShare(share)}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      <Row>
        {mono}
        <Button
          variant="text"
          disabled={round.at === 0}
          title="Alt P"
          onClick={() => dispatch(fitActions.roundMoved(-1))}
        >
          Back
        </Button>
        <Button title="Alt N" onClick={() => dispatch(fitActions.roundMoved(1))}>
          {round.at + 1 < round.order.length ? 'Next track' : 'Finish round'}
        </Button>
        <Button variant="text" onClick={end}>
          Stop
        </Button>
      </Row>
    </Entry>
  )
}

/** Lifts one track, and no other; null for none. */
function lift(track: string | null): void {
  const edits = openSession(store.getState())
    .tracks.filter((t) => t.lift !== (t.id === track))
    .map((t): Edit => ({ kind: 'set-node', node: t.id, change: { lift: t.id === track } }))
  if (edits.length > 0) store.dispatch(sessionActions.edited(edits, { listening: true }))
}
