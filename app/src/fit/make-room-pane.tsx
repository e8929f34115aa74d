import Button from '@mui/material/Button'
import ButtonBase from '@mui/material/ButtonBase'
import Typography from '@mui/material/Typography'
import type { Session } from '@sober-prism/core/session'
import type { Covering, SessionFinding } from '@sober-prism/engine'
import { useMemo, useState } from 'react'
import { Badge } from '../controls/badge'
import { Entry, Pane } from '../controls/layout'
import { Term } from '../controls/term'
import { findingWords } from '../findings/named-finding'
import { capital, formatShare } from '../format'
import { useAnalysis } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { chosenNode, nodeName, nodeOf, useRouting } from '../store/selectors'
import { useAppDispatch, useAppSelector, useEdit } from '../store/store'
import { editsOf } from '../survey/move-edits'
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
  const { covering, work, cancelled, findings } = useAnalysis(
    'covering',
    'work',
    'cancelled',
    'findings',
  )
  const [all, setAll] = useState(false)
  // The greatest stands open until another is chosen, or none.
  const [opened, setOpened] = useState<string | null>(null)
  const pairs = useMemo(
    () =>
      (all ? covering : covering.filter((c) => concerns(session, node, c)))
        .filter((c) => c.share >= LEAST_SHARE && mayYield(session, c))
        // Two microphones on one source add up: neither makes room for the other.
        .filter(
          ({ targetId: a, maskerId: b }) =>
            !cancelled.has(`${a} ${b}`) && !cancelled.has(`${b} ${a}`),
        )
        .sort((a, b) => rank(session, b) - rank(session, a))
        .slice(0, MOST_PAIRS),
    [covering, cancelled, session, node, all],
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
      {pairs.map((pair, i) => {
        const key = `${pair.targetId} ${pair.maskerId}`
        const isOpen = opened === null ? i === 0 : opened === key
        return (
          <MaskedPair
            key={key}
            pair={pair}
            finding={offeredFor(findings ?? [], pair)}
            open={isOpen}
            onTurn={() => setOpened(isOpen ? '' : key)}
          />
        )
      })}
      <LineUpTracks node={node} />
      <RoomRound />
    </>
  )
}

interface MaskedPairProps {
  readonly pair: Covering
  readonly finding: SessionFinding | undefined
  readonly open: boolean
  readonly onTurn: () => void
}

/** Who masks whom on one line; opened, what is offered and the ways to make room. */
function MaskedPair({
  pair: { targetId, maskerId, share },
  finding,
  open,
  onTurn,
}: MaskedPairProps) {
  const session = useRouting()
  const { heard } = useAnalysis('heard')
  const [tested, setTested] = useState(false)
  const [target, masker] = [nodeOf(session, targetId), nodeOf(session, maskerId)]
  if (!target || !masker) return null
  const title = `${masker.name} masks ${target.name}`
  return (
    <Entry data-open={open} sx={{ py: '4px' }}>
      <Typography component="h3" sx={{ minWidth: 0 }}>
        <ButtonBase
          aria-expanded={open}
          sx={{ width: '100%', minHeight: 30, gap: '8px', textAlign: 'left' }}
          onClick={onTurn}
        >
          <Badge letter={masker.letter} />
          <Typography component="span" noWrap title={title} sx={{ flex: 1, fontWeight: 600 }}>
            {title}
          </Typography>
          <Typography component="span" variant="figure">
            {formatShare(share)}
          </Typography>
        </ButtonBase>
      </Typography>
      {open && (
        <>
          <Typography variant="body2">
            {formatShare(share)} of {target.name} is masked by {masker.name};{' '}
            {formatShare(heard.get(targetId)?.share ?? 1)} of it is heard.
          </Typography>
          <OfferedMove finding={finding} target={targetId} />
          {tested ? (
            <YieldOptions target={targetId} masker={maskerId} onTaken={() => setTested(false)} />
          ) : (
            <Button
              data-command="make-room"
              sx={{ justifySelf: 'start', mb: '6px' }}
              onClick={() => setTested(true)}
            >
              Test ways to make room
            </Button>
          )}
        </>
      )}
    </Entry>
  )
}

/** What is offered for a pair: the same move as everywhere. */
function offeredFor(
  findings: readonly SessionFinding[],
  { targetId, maskerId }: Covering,
): SessionFinding | undefined {
  return findings.find(
    ({ offered, evidence }) =>
      offered &&
      evidence.kind === 'masking' &&
      evidence.masker === maskerId &&
      [evidence.target, ...evidence.freed].includes(targetId),
  )
}

function OfferedMove({ finding, target }: { finding: SessionFinding | undefined; target: string }) {
  const session = useRouting()
  const dispatch = useAppDispatch()
  const edit = useEdit()
  if (!finding) return null
  const words = findingWords(session, finding)
  // One trouble has one answer: where it is for another track, that one's entry holds it.
  if (finding.tracks[1] !== target) {
    return (
      <Typography color="textSecondary">
        The move for {nodeName(session, finding.tracks[1])} also frees it.
      </Typography>
    )
  }
  return (
    <>
      <Typography>{words.moves.map(capital).join('. ')}.</Typography>
      <Button
        variant="contained"
        sx={{ justifySelf: 'start' }}
        onClick={() => {
          edit(editsOf(finding, words.title))
          dispatch(
            interfaceActions.noticeShown(`Applied: ${words.moves.join('; ')}.`, 'info', 'edit'),
          )
        }}
      >
        Apply
      </Button>
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
