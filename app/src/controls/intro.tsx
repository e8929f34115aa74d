import CloseIcon from '@mui/icons-material/Close'
import Typography from '@mui/material/Typography'
import { interfaceActions, type StepName } from '../store/interface-slice'
import { useAppDispatch, useAppSelector } from '../store/store'
import { IconAction } from './icon-action'
import { Row } from './layout'

/** What a step is for, in one sentence, until it is put away. */
export function Intro({ step, children }: { step: StepName; children: string }) {
  const closed = useAppSelector((root) => root.interface.introsClosed.includes(step))
  const dispatch = useAppDispatch()
  if (closed) return null
  return (
    <Row
      sx={{
        flexWrap: 'nowrap',
        height: 30,
        p: '2px 8px 2px 14px',
        borderBottom: 1,
        borderColor: 'divider',
        color: 'text.secondary',
        '& > p': { flex: 1, minWidth: 0 },
      }}
    >
      <Typography noWrap title={children}>
        {children}
      </Typography>
      <IconAction
        label="Hide this note"
        icon={<CloseIcon />}
        onClick={() => dispatch(interfaceActions.introClosed(step))}
      />
    </Row>
  )
}
