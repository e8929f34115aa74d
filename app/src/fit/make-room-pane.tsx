import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import type { Session } from '@sober-prism/core/session'
import type { Covering } from '@sober-prism/engine'
import { useMemo, useState } from 'react'
import { Badge } from '../controls/badge'
import { Entry, Pane, Row } from '../controls/layout'
import { Term } from '../controls/term'
import { formatShare } from '../format'
import { useAnalysis } from '../shell/desk-context'
import { chosenNode, nodeName, nodeOf, useRouting } from '../store/selectors'
import { useAppSelector } from '../store/store'
import { LineUpTracks } from './line-up'
import { RoomRound } from './room-round'
import { YieldOptions } from './yield-options'

/** Less than this is not worth a move, as a share of the covered track's loudness. */
const LEAST_SHARE = 0.04
const MOST_PAIRS = 8

/** Masking where room can be made, the leads' losses first; and two microphones of one source. */
export function MakeRoomPane() {
  const session = useRouting()
  const node = useAppSelector(chosenNode)
  const { covering, heard, work } = useAnalysis('covering', 'heard', 'work')
  const [all, setAll] = useState(false)
  const [opened, setOpened] = useState('')
  const pairs = useMemo(
    () =>
      (all ? covering : covering.filter((c) => concerns(session, node, c)))
        .filter((c) => c.share >= LEAST_SHARE && mayYield(session, c))
        .sort((a, b) => rank(session, b) - rank(session, a))
        .slice(0, MOST_PAIRS),
    [covering, session, node, all],
  )
  return (
    <>
      <Pane>
        <Typography variant="h2">
          <Term word="mask">Masking</Term>
        </Typography>
        <Button variant="text" sx={{ justifySelf: 'start' }} onClick={() => setAll(!all)}>
          {all ? `Only ${nodeName(session, node)}` : 'All tracks'}
        </Button>
        {pairs.length === 0 && (
          <Typography color="textSecondary">
            {covering.length === 0
              ? work
                ? 'Masking appears here once the session is measured.'
                : 'Nothing has been measured yet.'
              : 'No track masks another enough to be worth a move.'}
          </Typography>
        )}
      </Pane>
      {pairs.map((pair) => {
        const { targetId, maskerId, share } = pair
        const key = `${targetId} ${maskerId}`
        const [target, masker] = [nodeOf(session, targetId), nodeOf(session, maskerId)]
        if (!target || !masker) return null
        return (
          <Entry key={key}>
            <Row as="header">
              <Badge letter={masker.letter} />
              <Typography component="h3" variant="h3">
                {masker.name} masks {target.name}
              </Typography>
            </Row>
            <Typography variant="body2">
              {formatShare(share)} of {target.name} is masked by {masker.name};{' '}
              {formatShare(heard.get(targetId)?.share ?? 1)} of it is heard.
            </Typography>
            {opened === key ? (
              <YieldOptions
                key={key}
                target={targetId}
                masker={maskerId}
                onTaken={() => setOpened('')}
              />
            ) : (
              <Button
                data-command="make-room"
                sx={{ justifySelf: 'start' }}
                onClick={() => setOpened(key)}
              >
                Test ways to make room
              </Button>
            )}
          </Entry>
        )
      })}
      <LineUpTracks node={node} />
      <RoomRound />
    </>
  )
}

function concerns(session: Session, node: string, { targetId, maskerId }: Covering): boolean {
  const isTrack = session.tracks.some((t) => t.id === node)
  return !isTrack || targetId === node || maskerId === node
}

/** A lead makes room for none but another lead. */
function mayYield({ leadIds }: Session, { targetId, maskerId }: Covering): boolean {
  return !leadIds.includes(maskerId) || leadIds.includes(targetId)
}

/** What a lead loses counts double. */
function rank(session: Session, { targetId, lostSone }: Covering): number {
  return lostSone * (session.leadIds.includes(targetId) ? 2 : 1)
}
