import { useSortable } from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import Checkbox from '@mui/material/Checkbox'
import { kindOf, type Treatment } from '@sober-prism/core/treatments'
import { useEffect, useRef } from 'react'
import { interfaceActions } from '../store/interface-slice'
import { useEdit, useSend } from '../store/store'

interface TreatmentRowProps {
  readonly node: string
  readonly treatment: Treatment
  readonly chosen: boolean
  readonly place: number
  readonly count: number
}

/** One treatment of a chain: its grip, its name with what it does, and whether it is on. */
export function TreatmentRow({ node, treatment, chosen, place, count }: TreatmentRowProps) {
  const edit = useEdit()
  const send = useSend()
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
      className="treatment-row"
      data-chosen={chosen}
      data-on={on}
      data-dragging={isDragging}
      style={{ transform: CSS.Translate.toString(transform), transition }}
    >
      <button
        type="button"
        ref={setActivatorNodeRef}
        className="grip"
        {...attributes}
        {...listeners}
        aria-label={`Move ${kind.name}, place ${place + 1} of ${count}: press Space, then arrow keys`}
      >
        <svg viewBox="0 0 12 16" aria-hidden="true">
          <path d="M1 4h10M1 8h10M1 12h10" />
        </svg>
      </button>
      <button
        type="button"
        className="treatment-name"
        aria-current={chosen}
        title={does}
        onClick={() => send(interfaceActions.treatmentChosen({ treatmentId: id, stage }))}
      >
        <span className="clip">{kind.name}</span>
        <span className="does clip">{does}</span>
      </button>
      <Checkbox
        size="small"
        checked={on}
        slotProps={{ input: { 'aria-label': `${kind.name} on` } }}
        onChange={(e) =>
          edit([{ kind: 'set-treatment', node, treatment: id, change: { on: e.target.checked } }])
        }
      />
    </li>
  )
}
