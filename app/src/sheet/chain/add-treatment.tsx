import AddIcon from '@mui/icons-material/Add'
import Menu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'
import {
  type KindName,
  newTreatment,
  type StageName,
  TREATMENT_KINDS,
} from '@sober-prism/core/treatments'
import { memo, useState } from 'react'
import { IconAction } from '../../controls/icon-action'
import { meaningOf, type Word } from '../../controls/words'
import { interfaceActions } from '../../store/interface-slice'
import { useAppDispatch, useEdit } from '../../store/store'
import { STAGE_NAMES } from '../names'

const KIND_NAMES = Object.keys(TREATMENT_KINDS) as KindName[]

/** A menu of all kinds of treatment. */
export const AddTreatment = memo(function AddTreatment({
  node,
  stage,
}: {
  node: string
  stage: StageName
}) {
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const add = (kind: KindName) => {
    setAnchor(null)
    const treatment = newTreatment(kind, crypto.randomUUID(), stage)
    edit([{ kind: 'add-treatment', node, treatment, before: null }])
    dispatch(interfaceActions.treatmentChosen({ treatmentId: treatment.id, stage }))
  }
  return (
    <>
      <IconAction
        label={`Add a treatment to ${STAGE_NAMES[stage]}`}
        icon={<AddIcon color="primary" />}
        onClick={(e) => setAnchor(e.currentTarget)}
      />
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {KIND_NAMES.map((kind) => (
          <MenuItem
            key={kind}
            title={meaningOf(TREATMENT_KINDS[kind].name as Word)}
            onClick={() => add(kind)}
          >
            {TREATMENT_KINDS[kind].name}
          </MenuItem>
        ))}
      </Menu>
    </>
  )
})
