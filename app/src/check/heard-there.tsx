import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { type ThroughTrack, throughSentence } from '@sober-prism/core/findings'
import { type Edit, withIdentities } from '@sober-prism/core/session'
import { errorSentence, isCancel, type PlaybackChoice } from '@sober-prism/engine'
import { useEffect, useState } from 'react'
import { Entry, EntryHead, Pane, Row } from '../controls/layout'
import { moveWords } from '../findings/named-finding'
import { capital, formatShare, printed } from '../format'
import { useAnalysis, useDesk } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { nodeName, useSession } from '../store/selectors'
import { useAppDispatch, useEdit } from '../store/store'
import { playbackWhere } from '../transport/playbacks'

/** Who is lost behind a playback, with a move that helps there. */
export function HeardThere({ choice }: { choice: PlaybackChoice }) {
  const { tracks, trouble } = useThrough(choice)
  const session = useSession()
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const where = playbackWhere(choice)
  const lost = (tracks ?? []).filter((t) => t.isLost).sort((a, b) => b.lostSone - a.lostSone)
  const make = (moves: readonly Edit[]) => {
    edit(withIdentities(moves, () => crypto.randomUUID()))
    const words = moves.map((m) => moveWords(session, m)).join('; ')
    dispatch(interfaceActions.noticeShown(`Made: ${words}`, 'info', 'edit'))
  }
  return (
    <>
      <Pane>
        <Typography role="status">
          {trouble ??
            (tracks === null
              ? 'Measuring…'
              : lost.length === 0
                ? `Everything that is heard here is heard ${where}.`
                : `${lost.length === 1 ? 'One track is' : `${lost.length} tracks are`} heard here and lost ${where}.`)}
        </Typography>
      </Pane>
      {lost.map((each) => {
        const name = nodeName(session, each.track)
        return (
          <Entry key={each.track} aria-label={name}>
            <EntryHead>
              <Typography variant="h3">{name}</Typography>
            </EntryHead>
            <Typography>{printed(throughSentence(name, where, each))}</Typography>
            {each.moves.length > 0 && each.after !== null && (
              <Row>
                <Typography variant="body2" color="textSecondary">
                  {capital(each.moves.map((m) => moveWords(session, m)).join('; '))}:{' '}
                  {formatShare(each.there)} → ≈ {formatShare(each.after)} {where}
                </Typography>
                <Button variant="contained" onClick={() => make(each.moves)}>
                  Apply
                </Button>
              </Row>
            )}
          </Entry>
        )
      })}
      {tracks && tracks.length > 0 && <Shares tracks={tracks} where={where} />}
    </>
  )
}

/** All tracks, what is heard of them here and there. */
function Shares({ tracks, where }: { tracks: readonly ThroughTrack[]; where: string }) {
  const session = useSession()
  return (
    <Box
      component="table"
      aria-label={`Heard here and ${where}`}
      sx={{
        m: '2px 14px 12px',
        borderCollapse: 'collapse',
        '& td, & th': { p: '1px 16px 1px 0', textAlign: 'left', fontWeight: 400 },
        '& td:nth-of-type(n+2)': { fontFamily: 'monospace', textAlign: 'right' },
      }}
    >
      <thead>
        <tr>
          <th>Heard</th>
          <th>here</th>
          <th>{where}</th>
        </tr>
      </thead>
      <tbody>
        {tracks.map(({ track, here, there }) => (
          <tr key={track}>
            <td>{nodeName(session, track)}</td>
            <td>{formatShare(here)}</td>
            <td>{formatShare(there)}</td>
          </tr>
        ))}
      </tbody>
    </Box>
  )
}

/** Who is heard behind a playback, worked out anew with each state that is measured. */
function useThrough(choice: PlaybackChoice) {
  const desk = useDesk()
  const { fresh } = useAnalysis('fresh')
  const [known, setKnown] = useState<{
    readonly of: PlaybackChoice
    readonly tracks: readonly ThroughTrack[]
  } | null>(null)
  const [trouble, setTrouble] = useState<string | null>(null)
  useEffect(() => {
    if (!fresh) return
    const controller = new AbortController()
    setTrouble(null)
    desk.analyser
      .heardThrough(choice, controller.signal)
      .then((tracks) => {
        if (tracks && !controller.signal.aborted) setKnown({ of: choice, tracks })
      })
      .catch((error: unknown) => {
        if (!controller.signal.aborted && !isCancel(error)) setTrouble(errorSentence(error))
      })
    return () => controller.abort(new DOMException('Another one is asked.', 'AbortError'))
  }, [desk, choice, fresh])
  return { tracks: fresh && known?.of === choice ? known.tracks : null, trouble }
}
