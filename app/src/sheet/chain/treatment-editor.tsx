import Button from '@mui/material/Button'
import OutlinedInput from '@mui/material/OutlinedInput'
import Typography from '@mui/material/Typography'
import { kindOf, type Treatment } from '@sober-prism/core/treatments'
import { memo } from 'react'
import { Fields, Row } from '../../controls/layout'
import { interfaceActions } from '../../store/interface-slice'
import { useAppDispatch, useEdit } from '../../store/store'
import { AlignEditor } from '../editors/align-editor'
import { BeginWith } from '../editors/begin-with'
import { BroadStrokesEditor } from '../editors/broad-strokes-editor'
import { BeginWithCurve, DrawnCurveEditor } from '../editors/drawn-curve-editor'
import { DriveEditor } from '../editors/drive-editor'
import { DuckEditor } from '../editors/duck-editor'
import { EqualiserEditor } from '../editors/equaliser-editor'
import { FollowEditor } from '../editors/follow-editor'
import { LevellerEditor } from '../editors/leveller-editor'
import { LowMiddleEditor } from '../editors/low-middle-editor'
import { MatchEditor } from '../editors/match-editor'
import { SplitEditor } from '../editors/split-editor'
import { bandsOf } from '../editors/starting-points'

/** What an editor of one kind of treatment is given. */
export interface EditorProps<T extends Treatment> {
  readonly node: string
  readonly treatment: T
  readonly onChange: (params: T['params'], gesture?: string) => void
}

/** A treatment's name, what it does in a sentence, settings to begin with, its reason; and its values in groups. */
export function TreatmentEditor({ node, treatment }: { node: string; treatment: Treatment }) {
  const edit = useEdit()
  const { id, reason } = treatment
  const { name } = kindOf(treatment.kind)
  const onChange = (params: unknown, gesture?: string) =>
    edit([{ kind: 'set-treatment', node, treatment: id, change: { params } }], { gesture })
  const setReason = (to: string) =>
    edit([{ kind: 'set-treatment', node, treatment: id, change: { reason: to } }], {
      gesture: `reason ${id}`,
    })
  if (treatment.kind === 'equaliser') {
    return (
      <Fields sx={{ width: '100%' }}>
        <legend className="visually-hidden">{name}</legend>
        <KindEditor node={node} treatment={treatment} onChange={onChange} />
        <RemoveTreatment node={node} id={id} name={name} />
      </Fields>
    )
  }
  return (
    <Fields sx={{ width: '100%' }}>
      <legend className="visually-hidden">{name}</legend>
      <Row sx={{ width: '100%', gap: '4px 10px' }}>
        <Typography variant="h3" sx={{ flex: 'none' }}>
          {name}
        </Typography>
        <DoesNow treatment={treatment} />
        <Presets treatment={treatment} onChange={onChange} />
        <OutlinedInput
          sx={{ flex: '1 1 100px', maxWidth: 180 }}
          placeholder="Why this treatment?"
          value={reason}
          inputProps={{ 'aria-label': `Reason of ${name}`, maxLength: 500 }}
          onChange={(e) => setReason(e.target.value)}
        />
        <RemoveTreatment node={node} id={id} name={name} />
      </Row>
      <KindEditor node={node} treatment={treatment} onChange={onChange} />
    </Fields>
  )
}

/** What it does, in its own sentence. */
function DoesNow({ treatment }: { treatment: Treatment }) {
  const does = kindOf(treatment.kind).describe(treatment.params)
  return (
    <Typography noWrap color="textSecondary" title={does} sx={{ flex: '2 1 110px', minWidth: 0 }}>
      {does}
    </Typography>
  )
}

/** Settings of its kind to begin with, where it has some. */
function Presets({ treatment, onChange }: Pick<EditorProps<Treatment>, 'treatment' | 'onChange'>) {
  switch (treatment.kind) {
    case 'follow':
      return (
        <BeginWith
          treatment={treatment}
          onChoose={(point) => onChange({ ...treatment.params, bands: bandsOf(point) })}
        />
      )
    case 'duck':
      return (
        <BeginWith
          treatment={treatment}
          onChoose={({ attackMs, releaseMs, bank }) =>
            onChange({ ...treatment.params, attackMs, releaseMs, ...bank })
          }
        />
      )
    case 'drawn-curve':
      return <BeginWithCurve onChoose={(points) => onChange({ ...treatment.params, points })} />
    default:
      return null
  }
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
      aria-label={`Remove ${name.charAt(0).toLowerCase()}${name.slice(1)}`}
      onClick={() => {
        edit([{ kind: 'remove-treatment', node, treatment: id }])
        dispatch(interfaceActions.noticeShown(`${name} removed.`, 'info', 'edit'))
      }}
    >
      Remove
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
