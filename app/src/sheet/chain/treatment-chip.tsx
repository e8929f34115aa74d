import { useSortable } from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import MovesIcon from '@mui/icons-material/ShowChart'
import ButtonBase from '@mui/material/ButtonBase'
import Checkbox from '@mui/material/Checkbox'
import Typography from '@mui/material/Typography'
import { chainOf, type Edit } from '@sober-prism/core/session'
import { kindOf, STAGES, type Treatment } from '@sober-prism/core/treatments'
import { memo, type RefObject, useEffect, useRef } from 'react'
import { shallowEqual } from 'react-redux'
import { doubtEdit } from '../../check/doubts'
import { type ContextItem, useContextMenu } from '../../controls/context-menu'
import { useDesk, useSignal } from '../../shell/desk-context'
import { useHear } from '../../shell/use-hear'
import { interfaceActions } from '../../store/interface-slice'
import { openSession, useRouting } from '../../store/selectors'
import { type RootState, store, useAppDispatch, useAppSelector, useEdit } from '../../store/store'
import { useThrottled } from '../../use-throttled'
import { STAGE_NAMES } from '../names'
import styles from '../sheet.module.css'
import { useSameShape } from './use-same-shape'

interface TreatmentChipProps {
  readonly node: string
  readonly id: string
  readonly chosen: boolean
  readonly place: number
  readonly count: number
}

/** Kinds that do something else from moment to moment. */
const MOVING: ReadonlySet<string> = new Set<Treatment['kind']>(['follow', 'duck', 'leveller'])
/** How often its words follow a drag. */
const FOLLOW_MS = 200

/** One treatment of a chain: whether it is on, its name, and marks for what moves and for what makes the sound late. */
export const TreatmentChip = memo(function TreatmentChip(props: TreatmentChipProps) {
  const { node, id, chosen, place, count } = props
  const head = useAppSelector((root) => {
    const found = treatmentOf(root, node, id)
    return found && { stage: found.stage, on: found.on, kind: found.kind }
  }, shallowEqual)
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({
    id,
  })
  const chip = useRef<HTMLLIElement>(null)
  useEffect(() => {
    if (chosen) chip.current?.scrollIntoView({ block: 'nearest', inline: 'nearest' })
  }, [chosen])
  const { onContextMenu, menu } = useChipMenu(node, id)
  if (!head) return null
  const { stage, on } = head
  const kind = kindOf(head.kind)
  const moves = MOVING.has(head.kind)
  return (
    <li
      ref={(element) => {
        chip.current = element
        setNodeRef(element)
      }}
      className={styles.chip}
      data-chosen={chosen}
      data-on={on}
      data-dragging={isDragging}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      onContextMenu={onContextMenu}
    >
      <Checkbox
        checked={on}
        sx={{ p: '1px' }}
        slotProps={{ input: { 'aria-label': `${kind.name} on` } }}
        onChange={(e) =>
          edit([{ kind: 'set-treatment', node, treatment: id, change: { on: e.target.checked } }])
        }
      />
      <ButtonBase
        {...attributes}
        {...listeners}
        className={styles.chipName}
        aria-current={chosen}
        aria-label={`${kind.name}, place ${place + 1} of ${count}${moves ? ', moves with the sound' : ''}`}
        onClick={() => dispatch(interfaceActions.treatmentChosen({ treatmentId: id, stage }))}
      >
        <span className="clip">{kind.name}</span>
        {moves && <MovesIcon sx={{ fontSize: 15 }} titleAccess="moves with the sound" />}
        <Lateness node={node} id={id} />
        <Does node={node} id={id} of={chip} />
      </ButtonBase>
      {menu}
    </li>
  )
})

/** How late it makes the sound, where it does. */
function Lateness({ node, id }: Pick<TreatmentChipProps, 'node' | 'id'>) {
  const { sampleRateHz } = useRouting()
  const cost = useSignal(useDesk().phaseCosts).get(`${node} ${id}`)
  if (!cost) return null
  const ms = (1000 * cost.latencyFrames) / sampleRateHz
  return (
    <Typography component="span" variant="caption" title="latency">
      {ms < 10 ? ms.toFixed(1) : ms.toFixed(0)} ms
    </Typography>
  )
}

/** What it does in words, as the chip's tip: nothing else of the chip is drawn anew for it. */
function Does({
  node,
  id,
  of,
}: Pick<TreatmentChipProps, 'node' | 'id'> & { of: RefObject<HTMLLIElement | null> }) {
  const now = useAppSelector((root) => treatmentOf(root, node, id))
  const treatment = useThrottled(now, FOLLOW_MS)
  useEffect(() => {
    if (!treatment || !of.current) return
    const { name, describe } = kindOf(treatment.kind)
    of.current.title = `${name}: ${describe(treatment.params)}`
  }, [treatment, of])
  return null
}

/** What can be done with it: switched, heard without, moved, removed. */
function useChipMenu(node: string, id: string) {
  const edit = useEdit()
  const hear = useHear()
  const dispatch = useAppDispatch()
  const sameShape = useSameShape(node, id)
  const target = { of: 'treatment', node, treatment: id } as const
  const items = (): readonly ContextItem[] => {
    const treatments = chainOf(openSession(store.getState()), node)?.treatments ?? []
    const at = treatments.findIndex((t) => t.id === id)
    if (at < 0) return []
    const { on, stage, kind } = treatments[at]
    const move = (to: Pick<Treatment, 'stage'>, before: string | null): Edit => ({
      kind: 'move-treatment',
      node,
      treatment: id,
      stage: to.stage,
      before,
    })
    const earlier = treatments[at - 1]
    const later = treatments[at + 1]
    const behind = treatments[at + 2]
    const behindLater = behind && behind.stage === later?.stage ? behind.id : null
    return [
      {
        name: on ? 'Switch off' : 'Switch on',
        run: () => edit([{ kind: 'set-treatment', node, treatment: id, change: { on: !on } }]),
      },
      { name: 'Listen without it', run: () => hear({ kind: 'without', target }) },
      { name: 'Listen to the difference only', run: () => hear({ kind: 'difference', target }) },
      null,
      {
        name: 'Move earlier',
        disabled: !earlier,
        run: () => earlier && edit([move(earlier, earlier.id)]),
      },
      {
        name: 'Move later',
        disabled: !later,
        run: () => later && edit([move(later, behindLater)]),
      },
      ...STAGES.filter((s) => s !== stage).map((s) => ({
        name: `Move to ${STAGE_NAMES[s]}`,
        run: () => edit([move({ stage: s }, null)]),
      })),
      null,
      ...sameShape(),
      {
        name: 'Listen to this tomorrow',
        run: () => {
          edit([doubtEdit(node, id)])
          const text = 'Kept for the next time this session is opened: Check, Second look.'
          dispatch(interfaceActions.noticeShown(text, 'info', 'edit'))
        },
      },
      {
        name: 'Remove',
        run: () => {
          edit([{ kind: 'remove-treatment', node, treatment: id }])
          const text = `${kindOf(kind).name} removed.`
          dispatch(interfaceActions.noticeShown(text, 'info', 'edit'))
        },
      },
    ]
  }
  return useContextMenu('Treatment', items)
}

function treatmentOf(root: RootState, node: string, id: string) {
  return chainOf(openSession(root), node)?.treatments.find((t) => t.id === id) ?? null
}
