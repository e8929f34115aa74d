import { useSortable } from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import DragIcon from '@mui/icons-material/DragHandle'
import ButtonBase from '@mui/material/ButtonBase'
import Checkbox from '@mui/material/Checkbox'
import IconButton from '@mui/material/IconButton'
import Typography from '@mui/material/Typography'
import { chainOf } from '@sober-prism/core/session'
import { kindOf } from '@sober-prism/core/treatments'
import { memo, useEffect, useRef } from 'react'
import { shallowEqual } from 'react-redux'
import { interfaceActions } from '../../store/interface-slice'
import { openSession } from '../../store/selectors'
import { type RootState, useAppDispatch, useAppSelector, useEdit } from '../../store/store'
import { useThrottled } from '../../use-throttled'
import styles from '../sheet.module.css'

interface TreatmentRowProps {
  readonly node: string
  readonly id: string
  readonly chosen: boolean
  readonly place: number
  readonly count: number
}

/** How often its words follow a drag. */
const FOLLOW_MS = 200

/** One treatment of a chain: its grip, its name with what it does, and whether it is on. */
export const TreatmentRow = memo(function TreatmentRow(props: TreatmentRowProps) {
  const { node, id, chosen, place, count } = props
  const head = useAppSelector((root) => {
    const found = treatmentOf(root, node, id)
    return found && { stage: found.stage, on: found.on, kind: found.kind }
  }, shallowEqual)
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const {
    attributes,
    listeners,
    setNodeRef,
    setActivatorNodeRef,
    transform,
    transition,
    isDragging,
  } = useSortable({ id })
  const row = useRef<HTMLLIElement>(null)
  useEffect(() => {
    if (chosen) row.current?.scrollIntoView({ block: 'nearest' })
  }, [chosen])
  if (!head) return null
  const { stage, on } = head
  const kind = kindOf(head.kind)
  return (
    <li
      ref={(element) => {
        row.current = element
        setNodeRef(element)
      }}
      className={styles.treatment}
      data-chosen={chosen}
      data-on={on}
      data-dragging={isDragging}
      style={{ transform: CSS.Translate.toString(transform), transition }}
    >
      <IconButton
        ref={setActivatorNodeRef}
        {...attributes}
        {...listeners}
        sx={{ cursor: 'grab', touchAction: 'none', p: 0 }}
        aria-label={`Move ${kind.name}, place ${place + 1} of ${count}: press Space, then arrow keys`}
      >
        <DragIcon />
      </IconButton>
      <ButtonBase
        className={styles.treatmentName}
        aria-current={chosen}
        onClick={() => dispatch(interfaceActions.treatmentChosen({ treatmentId: id, stage }))}
      >
        <Typography component="span" noWrap>
          {kind.name}
        </Typography>
        <Does node={node} id={id} />
      </ButtonBase>
      <Checkbox
        checked={on}
        slotProps={{ input: { 'aria-label': `${kind.name} on` } }}
        onChange={(e) =>
          edit([{ kind: 'set-treatment', node, treatment: id, change: { on: e.target.checked } }])
        }
      />
    </li>
  )
})

/** What it does in words. */
function Does({ node, id }: Pick<TreatmentRowProps, 'node' | 'id'>) {
  const now = useAppSelector((root) => treatmentOf(root, node, id))
  const treatment = useThrottled(now, FOLLOW_MS)
  const does = treatment ? kindOf(treatment.kind).describe(treatment.params) : ''
  return <Words text={does} />
}

const Words = memo(function Words({ text }: { text: string }) {
  return (
    <Typography component="span" variant="caption" color="textSecondary" noWrap title={text}>
      {text}
    </Typography>
  )
})

function treatmentOf(root: RootState, node: string, id: string) {
  return chainOf(openSession(root), node)?.treatments.find((t) => t.id === id) ?? null
}
