import { useSortable } from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import DragIcon from '@mui/icons-material/DragHandle'
import ButtonBase from '@mui/material/ButtonBase'
import Checkbox from '@mui/material/Checkbox'
import IconButton from '@mui/material/IconButton'
import Typography from '@mui/material/Typography'
import { kindOf, type Treatment } from '@sober-prism/core/treatments'
import { memo, useEffect, useRef } from 'react'
import { interfaceActions } from '../store/interface-slice'
import { useAppDispatch, useEdit } from '../store/store'
import { useThrottled } from '../use-throttled'
import styles from './sheet.module.css'

interface TreatmentRowProps {
  readonly node: string
  readonly treatment: Treatment
  readonly chosen: boolean
  readonly place: number
  readonly count: number
}

/** How often its words follow a drag. */
const FOLLOW_MS = 200

/** One treatment of a chain: its grip, its name with what it does, and whether it is on. */
export const TreatmentRow = memo(function TreatmentRow(props: TreatmentRowProps) {
  const { node, chosen, place, count } = props
  const treatment = useThrottled(props.treatment, FOLLOW_MS)
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
  } = useSortable({ id: treatment.id })
  const { id, stage, on } = treatment
  const kind = kindOf(treatment.kind)
  const does = kind.describe(treatment.params)
  const row = useRef<HTMLLIElement>(null)
  useEffect(() => {
    if (chosen) row.current?.scrollIntoView({ block: 'nearest' })
  }, [chosen])
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
        title={does}
        onClick={() => dispatch(interfaceActions.treatmentChosen({ treatmentId: id, stage }))}
      >
        <Typography component="span" noWrap>
          {kind.name}
        </Typography>
        <Typography component="span" variant="caption" color="text.secondary" noWrap>
          {does}
        </Typography>
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
