import FoldedIcon from '@mui/icons-material/ChevronRight'
import UnfoldedIcon from '@mui/icons-material/ExpandMore'
import ButtonBase from '@mui/material/ButtonBase'
import IconButton from '@mui/material/IconButton'
import ToggleButton from '@mui/material/ToggleButton'
import type { EditOf, Group, Routed, Track } from '@sober-prism/core/session'
import { groupsAbove } from '@sober-prism/core/session'
import { MIX } from '@sober-prism/core/treatments'
import { memo, type ReactNode } from 'react'
import { Badge } from '../controls/badge'
import { Fader } from '../controls/fader'
import { formatDb, formatShare, signed } from '../format'
import { useAnalysis } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { useSession } from '../store/selectors'
import { useAppDispatch, useEdit } from '../store/store'
import { Meter } from './meter'
import styles from './tracks.module.css'

interface RowProps {
  readonly depth: number
  readonly chosen: boolean
  /** It is chosen besides another. */
  readonly also: boolean
  readonly onChoose: (id: string, besides: boolean) => void
}

export const TrackRow = memo(function TrackRow(props: RowProps & { track: Track }) {
  const { track } = props
  const session = useSession()
  const { heard } = useAnalysis()
  const muted = track.mute || groupsAbove(session, track.id).some((g) => g.mute)
  const share = heard.get(track.id)?.share
  return (
    <NodeRow
      {...props}
      node={track}
      muted={muted}
      badge={<Badge letter={track.letter} lead={session.leadIds.includes(track.id)} />}
      figure={share === undefined || muted ? '–' : formatShare(share)}
      figureWords="Share of its loudness that survives in the mix"
    />
  )
})

export const GroupRow = memo(function GroupRow(
  props: RowProps & { group: Group; folded: boolean },
) {
  const { group, folded } = props
  const dispatch = useAppDispatch()
  return (
    <NodeRow
      {...props}
      node={group}
      muted={group.mute}
      badge={
        <IconButton
          aria-label={`${folded ? 'Unfold' : 'Fold'} ${group.name}`}
          aria-expanded={!folded}
          sx={{ p: 0, gap: 0 }}
          onClick={() => dispatch(interfaceActions.groupFolded(group.id))}
        >
          <Badge letter={group.letter} group />
          {folded ? <FoldedIcon /> : <UnfoldedIcon />}
        </IconButton>
      }
      figure="group"
      figureWords="A group has a fader and a chain for what goes into it"
    />
  )
})

interface NodeRowProps extends RowProps {
  readonly node: Routed
  readonly muted: boolean
  readonly badge: ReactNode
  readonly figure: string
  readonly figureWords: string
}

function NodeRow(props: NodeRowProps) {
  const { node, muted, badge, figure, figureWords, depth, chosen, also, onChoose } = props
  const edit = useEdit()
  const set = (change: EditOf<'set-node'>['change'], gesture?: string, listening = false) =>
    edit([{ kind: 'set-node', node: node.id, change }], { gesture, listening })
  return (
    <div
      className={styles.side}
      data-muted={muted}
      data-also={also}
      style={{ '--depth': depth } as object}
    >
      <Meter node={node.id} />
      <span className={styles.badge}>{badge}</span>
      <ButtonBase
        className={`${styles.name} clip`}
        aria-pressed={chosen || also}
        title={node.name}
        onClick={(e) => onChoose(node.id, e.ctrlKey || e.metaKey || e.shiftKey)}
      >
        {node.name}
      </ButtonBase>
      <span className={`${styles.figure} heard`} title={figureWords}>
        {figure}
      </span>
      <Fader
        label={`Fader of ${node.name}, dB`}
        db={node.faderDb}
        onChange={(faderDb) => set({ faderDb }, `fader ${node.id}`)}
      />
      <span className={styles.db}>{formatDb(node.faderDb)}</span>
      <span className={styles.toggles}>
        {(['mute', 'solo', 'lift'] as const).map((key) => (
          <ToggleButton
            key={key}
            value={key}
            selected={node[key]}
            aria-label={`${key} ${node.name}`}
            title={TOGGLES[key]}
            onClick={() => set({ [key]: !node[key] }, undefined, key !== 'mute')}
          >
            {key[0].toUpperCase()}
          </ToggleButton>
        ))}
      </span>
    </div>
  )
}

const TOGGLES = {
  mute: 'Mute',
  solo: 'Solo, for listening only',
  lift: 'Lift: 6 dB up, for listening only',
}

/** The mix: its name, loudness over the passage and fader. */
export function MixRow({ chosen, onChoose }: { chosen: boolean; onChoose: () => void }) {
  const session = useSession()
  const edit = useEdit()
  const { mix } = useAnalysis()
  return (
    <div className={styles.side}>
      <Meter node={MIX} />
      <span />
      <ButtonBase className={`${styles.name} clip`} aria-pressed={chosen} onClick={onChoose}>
        Mix
      </ButtonBase>
      <span className={styles.lufs} title="Loudness over the passage">
        {mix?.lufs === null || mix?.lufs === undefined ? '' : `${signed(mix.lufs)} LUFS`}
      </span>
      <Fader
        label="Fader of the mix, dB"
        db={session.mix.faderDb}
        onChange={(faderDb) =>
          edit([{ kind: 'set-node', node: MIX, change: { faderDb } }], { gesture: 'mix fader' })
        }
      />
      <span className={styles.db}>{formatDb(session.mix.faderDb)}</span>
    </div>
  )
}
