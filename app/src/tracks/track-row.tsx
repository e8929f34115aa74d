import FoldedIcon from '@mui/icons-material/ChevronRight'
import UnfoldedIcon from '@mui/icons-material/ExpandMore'
import ButtonBase from '@mui/material/ButtonBase'
import IconButton from '@mui/material/IconButton'
import ToggleButton from '@mui/material/ToggleButton'
import type { Edit, EditOf, Routed } from '@sober-prism/core/session'
import { MIX } from '@sober-prism/core/treatments'
import { memo, type ReactNode } from 'react'
import { Badge } from '../controls/badge'
import { FADER_DB, Fader } from '../controls/fader'
import { meaningOf } from '../controls/words'
import { formatDb, PREDICTED, signed } from '../format'
import { useAnalysis } from '../shell/desk-context'
import { nodeOf, openSession, selectedWith } from '../store/selectors'
import { store, useAppSelector, useEdit } from '../store/store'
import { HeardBar, heardWords } from './heard-bar'
import { Meter } from './meter'
import styles from './tracks.module.css'

/** What a row shows of a node: plain values, so that it is drawn anew only when one of them changes. */
interface RowProps {
  readonly id: string
  readonly name: string
  readonly letter: string
  readonly faderDb: number
  readonly mute: boolean
  readonly solo: boolean
  readonly lift: boolean
  /** It or a group above it is muted. */
  readonly muted: boolean
  readonly depth: number
  readonly chosen: boolean
  /** It is chosen besides another. */
  readonly also: boolean
  readonly onChoose: (id: string, besides: boolean) => void
}

interface TrackRowProps extends RowProps {
  readonly lead: boolean
  /** Share of its loudness that is heard, as it is shown. */
  readonly heard: string
  /** Parts of its loudness that are hidden and crowded; null where nothing is known. */
  readonly hidden: number | null
  readonly crowded: number | null
  /** Speech Intelligibility Index of a voice; null for what is none. */
  readonly understood: number | null
  /** What is heard is not measured yet but foreseen. */
  readonly foreseen: boolean
}

export const TrackRow = memo(function TrackRow(props: TrackRowProps) {
  const { lead, heard, hidden, crowded, understood, foreseen, ...row } = props
  const parts =
    hidden === null || crowded === null ? null : { hidden, crowded, clear: 1 - hidden - crowded }
  return (
    <NodeRow
      {...row}
      badge={<Badge letter={row.letter} lead={lead} />}
      figure={
        <>
          <span className={styles.share}>{heard}</span>
          {parts && <HeardBar {...parts} foreseen={foreseen} />}
        </>
      }
      figureWords={`${foreseen ? 'Predicted, measuring now. ' : ''}${meaningOf('share heard')}${parts ? `: ${heardWords(parts)}` : ''}${understood === null ? '' : `; words ${understood.toFixed(2)} (${meaningOf('words')})`}`}
    />
  )
})

interface GroupRowProps extends RowProps {
  readonly folded: boolean
  readonly onFold: (id: string) => void
}

export const GroupRow = memo(function GroupRow({ folded, onFold, ...row }: GroupRowProps) {
  return (
    <NodeRow
      {...row}
      badge={
        <IconButton
          aria-label={`${folded ? 'Unfold' : 'Fold'} ${row.name}`}
          aria-expanded={!folded}
          sx={{ p: 0, gap: 0 }}
          onClick={() => onFold(row.id)}
        >
          <Badge letter={row.letter} group />
          {folded ? <FoldedIcon /> : <UnfoldedIcon />}
        </IconButton>
      }
      figure="group"
      figureWords="A group has its own fader and chain"
    />
  )
})

type Change = EditOf<'set-node'>['change']

interface NodeRowProps extends RowProps {
  readonly badge: ReactNode
  readonly figure: ReactNode
  readonly figureWords: string
}

function NodeRow(props: NodeRowProps) {
  const { id, name, faderDb, muted, badge, figure, figureWords, depth, chosen, also } = props
  const edit = useEdit()
  /** What is done to one of several that are selected is done to all of them. */
  const toAll = (changed: (node: Routed) => Change, gesture?: string, listening = false) => {
    const root = store.getState()
    const nodes = selectedWith(root, id).flatMap((n) => nodeOf(openSession(root), n) ?? [])
    const edits = nodes.map((n): Edit => ({ kind: 'set-node', node: n.id, change: changed(n) }))
    edit(edits, { gesture, listening })
  }
  const moveFaders = (db: number) => {
    const by = db - faderDb
    const moved = (n: Routed) => Math.max(FADER_DB[0], Math.min(FADER_DB[1], n.faderDb + by))
    toAll((n) => ({ faderDb: n.id === id ? db : moved(n) }), `fader ${id}`)
  }
  return (
    <div
      className={styles.side}
      data-muted={muted}
      data-also={also}
      style={{ '--depth': depth } as object}
    >
      <Meter node={id} />
      <span className={styles.badge}>{badge}</span>
      <ButtonBase
        className={`${styles.name} clip`}
        aria-pressed={chosen || also}
        title={name}
        onClick={(e) => props.onChoose(id, e.ctrlKey || e.metaKey || e.shiftKey)}
      >
        {name}
      </ButtonBase>
      <span className={`${styles.figure} heard`} title={figureWords}>
        {figure}
      </span>
      <Fader label={`Fader of ${name}, dB`} db={faderDb} onChange={moveFaders} />
      <span className={styles.db}>{formatDb(faderDb)}</span>
      <span className={styles.toggles}>
        {(['mute', 'solo', 'lift'] as const).map((key) => (
          <ToggleButton
            key={key}
            value={key}
            selected={props[key]}
            aria-label={`${key} ${name}`}
            title={TOGGLES[key]}
            onClick={() => toAll(() => ({ [key]: !props[key] }), undefined, key !== 'mute')}
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
export const MixRow = memo(function MixRow({
  chosen,
  onChoose,
}: {
  chosen: boolean
  onChoose: (id: string, besides: boolean) => void
}) {
  const faderDb = useAppSelector((root) => openSession(root).mix.faderDb)
  const edit = useEdit()
  const { mix, foreseen } = useAnalysis('mix', 'foreseen')
  const lufs = mix?.lufs ?? null
  return (
    <div className={styles.side}>
      <Meter node={MIX} />
      <span />
      <ButtonBase
        className={`${styles.name} clip`}
        aria-pressed={chosen}
        onClick={() => onChoose(MIX, false)}
      >
        Mix
      </ButtonBase>
      <span className={styles.lufs} title="Loudness over the passage">
        {lufs === null ? '' : `${foreseen ? PREDICTED : ''}${signed(lufs)} LUFS`}
      </span>
      <Fader
        label="Fader of the mix, dB"
        db={faderDb}
        onChange={(db) =>
          edit([{ kind: 'set-node', node: MIX, change: { faderDb: db } }], {
            gesture: 'mix fader',
          })
        }
      />
      <span className={styles.db}>{formatDb(faderDb)}</span>
    </div>
  )
})
