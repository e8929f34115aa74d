import Button from '@mui/material/Button'
import OutlinedInput from '@mui/material/OutlinedInput'
import Typography from '@mui/material/Typography'
import { MIX } from '@sober-prism/core/treatments'
import { type ReactNode, useMemo } from 'react'
import { Choice } from '../controls/choice'
import { useAnalysis } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { chosenNode, useSession } from '../store/selectors'
import { useAppDispatch, useAppSelector } from '../store/store'
import { type TrackRowOf, trackRows } from './track-order'
import { GroupRow, MixRow, TrackRow } from './track-row'
import styles from './tracks.module.css'

const ORDERS = [
  ['hand', 'as given'],
  ['role', 'by role'],
  ['lost', 'by loss'],
] as const

interface TrackListProps {
  /** A picture beside each row, and beside the mix. */
  readonly beside?: (row: TrackRowOf | 'mix') => ReactNode
  /** Rows whose picture takes more room. */
  readonly isOpen?: (node: string) => boolean
  /** Rows that stand under the mix and do not scroll. */
  readonly children?: ReactNode
}

/** All tracks and groups with what is set while listening; the same on every step. */
export function TrackList({ beside, isOpen, children }: TrackListProps) {
  const session = useSession()
  const { heard } = useAnalysis()
  const dispatch = useAppDispatch()
  const chosen = useAppSelector(chosenNode)
  const also = useAppSelector((root) => root.interface.alsoChosen)
  const order = useAppSelector((root) => root.interface.trackOrder)
  const filter = useAppSelector((root) => root.interface.trackFilter)
  const folded = useAppSelector((root) => root.interface.folded)
  const rows = useMemo(() => {
    const lostSone = (id: string) => {
      const h = heard.get(id)
      return h ? h.aloneSone - h.inMixSone : 0
    }
    return trackRows(session, { order, filter, folded, lostSone })
  }, [session, order, filter, folded, heard])
  const choose = (id: string, besides: boolean) =>
    dispatch(besides ? interfaceActions.nodeChosenToo(id) : interfaceActions.nodeChosen(id))
  const isMany = rows.length > 9
  return (
    <section className={styles.list} aria-label="Tracks and groups" data-beside={!!beside}>
      <div className={styles.tools}>
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
      </div>
      <ul className={styles.rows} data-many={isMany}>
        {rows.map((row) => (
          <li
            key={row.node.id}
            className={styles.line}
            data-chosen={chosen === row.node.id}
            data-open={isOpen?.(row.node.id)}
          >
            {row.kind === 'track' ? (
              <TrackRow
                track={row.node}
                depth={row.depth}
                chosen={chosen === row.node.id}
                also={also.includes(row.node.id)}
                onChoose={choose}
              />
            ) : (
              <GroupRow
                group={row.node}
                depth={row.depth}
                chosen={chosen === row.node.id}
                also={also.includes(row.node.id)}
                onChoose={choose}
                folded={folded.includes(row.node.id)}
              />
            )}
            {beside?.(row)}
          </li>
        ))}
        {rows.length === 0 && session.tracks.length > 0 && (
          <li className={styles.none}>
            <Typography color="text.secondary">No track goes by “{filter}”.</Typography>
            <Button onClick={() => dispatch(interfaceActions.tracksFiltered(''))}>Show all</Button>
          </li>
        )}
        {session.tracks.length === 0 && (
          <li className={styles.none}>
            <Typography color="text.secondary">
              Tracks stand here once they are brought in.
            </Typography>
          </li>
        )}
      </ul>
      <div className={styles.line} data-chosen={chosen === MIX} data-open={isOpen?.(MIX)}>
        <MixRow chosen={chosen === MIX} onChoose={() => choose(MIX, false)} />
        {beside?.('mix')}
      </div>
      {children}
    </section>
  )
}
