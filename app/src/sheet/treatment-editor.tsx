import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { kindOf, type Treatment } from '@sober-prism/core/treatments'
import { interfaceActions } from '../store/interface-slice'
import { useEdit, useSend } from '../store/store'
import { AlignEditor } from './editors/align-editor'
import { EqualiserEditor } from './editors/equaliser-editor'
import { LowMiddleEditor } from './editors/low-middle-editor'

/** What an editor of one kind of treatment is given. */
export interface EditorProps<T extends Treatment> {
  readonly node: string
  readonly treatment: T
  readonly onChange: (params: T['params'], gesture?: string) => void
}

/** The values of a treatment, each to be typed, with its reason. */
export function TreatmentEditor({ node, treatment }: { node: string; treatment: Treatment }) {
  const edit = useEdit()
  const send = useSend()
  const { id, reason } = treatment
  const { name } = kindOf(treatment.kind)
  const onChange = (params: unknown, gesture?: string) =>
    edit([{ kind: 'set-treatment', node, treatment: id, change: { params } }], { gesture })
  return (
    <fieldset className="treatment-editor">
      <legend className="visually-hidden">{name}</legend>
      <KindEditor node={node} treatment={treatment} onChange={onChange} />
      {treatment.kind !== 'equaliser' && (
        <TextField
          size="small"
          variant="standard"
          className="reason"
          placeholder="Why this treatment?"
          value={reason}
          slotProps={{ htmlInput: { 'aria-label': `Reason of ${name}`, maxLength: 500 } }}
          onChange={(e) =>
            edit(
              [{ kind: 'set-treatment', node, treatment: id, change: { reason: e.target.value } }],
              { gesture: `reason ${id}` },
            )
          }
        />
      )}
      <Button
        size="small"
        onClick={() => {
          edit([{ kind: 'remove-treatment', node, treatment: id }])
          send(interfaceActions.noticeShown(`${name} removed.`, 'info', 'edit'))
        }}
      >
        Remove {name.toLowerCase()}
      </Button>
    </fieldset>
  )
}

/** The values of one kind. */
export function KindEditor({ treatment, ...rest }: EditorProps<Treatment>) {
  switch (treatment.kind) {
    case 'equaliser':
      return <EqualiserEditor {...rest} treatment={treatment} />
    case 'align':
      return <AlignEditor {...rest} treatment={treatment} />
    case 'low-middle':
      return <LowMiddleEditor {...rest} treatment={treatment} />
  }
}
