import Button from '@mui/material/Button'
import OutlinedInput from '@mui/material/OutlinedInput'
import { kindOf, type Treatment } from '@sober-prism/core/treatments'
import { memo } from 'react'
import { Fields } from '../../controls/layout'
import { interfaceActions } from '../../store/interface-slice'
import { useAppDispatch, useEdit } from '../../store/store'
import { AlignEditor } from '../editors/align-editor'
import { BroadStrokesEditor } from '../editors/broad-strokes-editor'
import { DrawnCurveEditor } from '../editors/drawn-curve-editor'
import { DriveEditor } from '../editors/drive-editor'
import { DuckEditor } from '../editors/duck-editor'
import { EqualiserEditor } from '../editors/equaliser-editor'
import { FollowEditor } from '../editors/follow-editor'
import { LevellerEditor } from '../editors/leveller-editor'
import { LowMiddleEditor } from '../editors/low-middle-editor'
import { MatchEditor } from '../editors/match-editor'
import { SplitEditor } from '../editors/split-editor'

/** What an editor of one kind of treatment is given. */
export interface EditorProps<T extends Treatment> {
  readonly node: string
  readonly treatment: T
  readonly onChange: (params: T['params'], gesture?: string) => void
}

/** The values of a treatment, each to be typed, with its reason. */
export function TreatmentEditor({ node, treatment }: { node: string; treatment: Treatment }) {
  const edit = useEdit()
  const { id, reason } = treatment
  const { name } = kindOf(treatment.kind)
  const onChange = (params: unknown, gesture?: string) =>
    edit([{ kind: 'set-treatment', node, treatment: id, change: { params } }], { gesture })
  return (
    <Fields sx={{ display: 'contents' }}>
      <legend className="visually-hidden">{name}</legend>
      <KindEditor node={node} treatment={treatment} onChange={onChange} />
      {treatment.kind !== 'equaliser' && (
        <OutlinedInput
          sx={{ flex: 1, minWidth: 120 }}
          placeholder="Why this treatment?"
          value={reason}
          inputProps={{ 'aria-label': `Reason of ${name}`, maxLength: 500 }}
          onChange={(e) =>
            edit(
              [{ kind: 'set-treatment', node, treatment: id, change: { reason: e.target.value } }],
              { gesture: `reason ${id}` },
            )
          }
        />
      )}
      <RemoveTreatment node={node} id={id} name={name} />
    </Fields>
  )
}

interface RemoveTreatmentProps {
  readonly node: string
  readonly id: string
  readonly name: string
}

const RemoveTreatment = memo(function RemoveTreatment({ node, id, name }: RemoveTreatmentProps) {
  const edit = useEdit()
  const dispatch = useAppDispatch()
  return (
    <Button
      variant="text"
      onClick={() => {
        edit([{ kind: 'remove-treatment', node, treatment: id }])
        dispatch(interfaceActions.noticeShown(`${name} removed.`, 'info', 'edit'))
      }}
    >
      Remove {name.toLowerCase()}
    </Button>
  )
})

/** The values of one kind. */
export function KindEditor({ treatment, ...rest }: EditorProps<Treatment>) {
  switch (treatment.kind) {
    case 'equaliser':
      return <EqualiserEditor {...rest} treatment={treatment} />
    case 'align':
      return <AlignEditor {...rest} treatment={treatment} />
    case 'drawn-curve':
      return <DrawnCurveEditor {...rest} treatment={treatment} />
    case 'follow':
      return <FollowEditor {...rest} treatment={treatment} />
    case 'duck':
      return <DuckEditor {...rest} treatment={treatment} />
    case 'low-middle':
      return <LowMiddleEditor {...rest} treatment={treatment} />
    case 'match':
      return <MatchEditor {...rest} treatment={treatment} />
    case 'broad-strokes':
      return <BroadStrokesEditor {...rest} treatment={treatment} />
    case 'drive':
      return <DriveEditor {...rest} treatment={treatment} />
    case 'leveller':
      return <LevellerEditor {...rest} treatment={treatment} />
    case 'split':
      return <SplitEditor {...rest} treatment={treatment} />
  }
}
