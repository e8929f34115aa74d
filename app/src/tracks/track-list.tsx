import Button from '@mui/material/Button'
import OutlinedInput from '@mui/material/OutlinedInput'
import Typography from '@mui/material/Typography'
import { groupsAbove, type Routed, type Session } from '@sober-prism/core/session'
import { MIX } from '@sober-prism/core/treatments'
import { type CSSProperties, memo, type ReactNode, useCallback, useMemo, useRef } from 'react'
import { Choice } from '../controls/choice'
import { Column, Row } from '../controls/layout'
import { formatShare, PREDICTED } from '../format'
import { useAnalysis } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { chosenNode, useRouting } from '../store/selectors'
import { useAppDispatch, useAppSelector } from '../store/store'
import { type MappedRow, RowsMap } from './rows-map'
import { foldedGroups, type TrackRowOf, trackRows } from './track-order'
import { GroupRow, MixRow, TrackRow } from './track-row'
import styles from './tracks.module.css'
import { type MoreItems, useTrackMenu } from './use-track-menu'

const ORDERS = [
  ['hand', 'Manual'],
  ['role', 'Role'],
  ['lost', 'Masking'],
] as const

interface TrackListProps {
  /** A picture beside each row, and beside the mix. */
  readonly beside?: (row: TrackRowOf | 'mix') => ReactNode
  /** Rows whose picture takes more room. */
  readonly isOpen?: (node: string) => boolean
  /** What the menu of a row holds besides. */
  readonly more?: MoreItems
  /** Rows that stand under the mix and do not scroll. */
  readonly children?: ReactNode
}

/** All tracks and groups with what is set while listening; the same on every step. */
export function TrackList({ beside, isOpen, more, children }: TrackListProps) {
  const session = useRouting()
  const { heard, sharesForeseen } = useAnalysis('heard', 'sharesForeseen')
  const dispatch = useAppDispatch()
  const chosen = useAppSelector(chosenNode)
  const also = useAppSelector((root) => root.interface.alsoChosen)
  const order = useAppSelector((root) => root.interface.trackOrder)
  const filter = useAppSelector((root) => root.interface.trackFilter)
  const foldedByHand = useAppSelector((root) => root.interface.folded)
  const folded = useMemo(
    () => foldedGroups(session, foldedByHand, chosen),
    [session, foldedByHand, chosen],
  )
  const rows = useMemo(() => {
    const lostSone = (id: string) => {
      const h = heard.get(id)
      return h ? h.aloneSone - h.inMixSone : 0
    }
    return trackRows(session, { order, filter, folded, lostSone })
  }, [session, order, filter, folded, heard])
  const choose = useCallback(
    (id: string, besides: boolean) =>
      void dispatch(besides ? interfaceActions.nodeChosenToo(id) : interfaceActions.nodeChosen(id)),
    [dispatch],
  )
  const fold = useCallback(
    (id: string) =>
      void dispatch(
        interfaceActions.groupsFolded(
          folded.includes(id) ? folded.filter((f) => f !== id) : [...folded, id],
        ),
      ),
    [dispatch, folded],
  )
  const list = useRef<HTMLUListElement>(null)
  const mapped = useMemo(
    () =>
      rows.map(({ node: { id } }): MappedRow => {
        const h = heard.get(id)
        return { id, lost: h ? h.hidden + h.crowded : 0, chosen: id === chosen }
      }),
    [rows, heard, chosen],
  )
  const { open: openMenu, menu } = useTrackMenu(more)
  const open = rows.filter((row) => isOpen?.(row.node.id)).length
  const room = {
    // One row stands at its full height: the chosen one, or the next that is chosen.
    '--plain': Math.max(1, rows.length - Math.max(1, open)),
    '--open': open,
    '--empty': rows.length === 0 ? 1 : 0,
  } as CSSProperties
  return (
    <section className={styles.list} aria-label="Tracks and groups" data-beside={!!beside}>
      <ListTools />
      <div className={styles.room} style={room}>
        <ul ref={list} className={styles.rows}>
          {rows.map((row) => (
            <li
              key={row.node.id}
              className={styles.line}
              data-chosen={chosen === row.node.id}
              data-open={isOpen?.(row.node.id)}
              onContextMenu={(event) => openMenu(event, row.node.id)}
            >
              {row.kind === 'track' ? (
                <TrackRow
                  {...rowOf(session, row)}
                  lead={session.leadIds.includes(row.node.id)}
                  heard={heardText(
                    heard.get(row.node.id)?.share,
                    isMuted(session, row.node),
                    sharesForeseen,
                  )}
                  foreseen={sharesForeseen}
                  hidden={heardPart(heard.get(row.node.id)?.hidden, isMuted(session, row.node))}
                  crowded={heardPart(heard.get(row.node.id)?.crowded, isMuted(session, row.node))}
                  understood={heard.get(row.node.id)?.understood ?? null}
                  chosen={chosen === row.node.id}
                  also={also.includes(row.node.id)}
                  onChoose={choose}
                />
              ) : (
                <GroupRow
                  {...rowOf(session, row)}
                  chosen={chosen === row.node.id}
                  also={also.includes(row.node.id)}
                  onChoose={choose}
                  folded={folded.includes(row.node.id)}
                  onFold={fold}
                />
              )}
              {beside?.(row)}
            </li>
          ))}
          {rows.length === 0 && session.tracks.length > 0 && (
            <Column as="li" sx={{ gap: '8px', justifyItems: 'start', p: '14px 12px' }}>
              <Typography color="textSecondary">No track goes by “{filter}”.</Typography>
              <Button onClick={() => dispatch(interfaceActions.tracksFiltered(''))}>
                Show all
              </Button>
            </Column>
          )}
          {session.tracks.length === 0 && (
            <Column as="li" sx={{ gap: '8px', justifyItems: 'start', p: '14px 12px' }}>
              <Typography color="textSecondary">Imported tracks appear here.</Typography>
            </Column>
          )}
        </ul>
        {beside && <RowsMap rows={mapped} scroller={list} />}
      </div>
      <div className={styles.line} data-chosen={chosen === MIX} data-open={isOpen?.(MIX)}>
        <MixRow chosen={chosen === MIX} onChoose={choose} />
        {beside?.('mix')}
      </div>
      {children}
      {menu}
    </section>
  )
}

/** What narrows the list, and its order. */
const ListTools = memo(function ListTools() {
  const dispatch = useAppDispatch()
  const order = useAppSelector((root) => root.interface.trackOrder)
  const filter = useAppSelector((root) => root.interface.trackFilter)
  return (
    <Row
      sx={{
        flexWrap: 'nowrap',
        gap: '4px',
        width: 'var(--side)',
        p: '4px 6px',
        borderBottom: 1,
        borderColor: 'divider',
      }}
    >
      <OutlinedInput
        placeholder="Name or role"
        value={filter}
        inputProps={{ 'aria-label': 'Show only tracks with this name or role' }}
        sx={{ flex: 1, minWidth: 0 }}
        onChange={(e) => dispatch(interfaceActions.tracksFiltered(e.target.value))}
      />
      <Choice
        label="Order of the tracks"
        value={order}
        options={ORDERS}
        onChange={(value) => dispatch(interfaceActions.tracksOrdered(value))}
      />
    </Row>
  )
})

function rowOf(session: Session, { node, depth }: TrackRowOf) {
  const { id, name, letter, faderDb, mute, solo, lift } = node
  const muted = isMuted(session, node)
  return { id, name, letter, faderDb, mute, solo, lift, muted, depth }
}

function isMuted(session: Session, node: Routed): boolean {
  return node.mute || groupsAbove(session, node.id).some((g) => g.mute)
}

/** A part of a track's loudness; nothing of one that is muted. */
function heardPart(part: number | undefined, muted: boolean): number | null {
  return muted ? null : (part ?? null)
}

function heardText(share: number | undefined, muted: boolean, foreseen: boolean): string {
  if (share === undefined || muted) return '–'
  return `${foreseen ? PREDICTED : ''}${formatShare(share)}`
}
