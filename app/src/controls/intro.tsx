import CloseIcon from '@mui/icons-material/Close'
import Typography from '@mui/material/Typography'
import { interfaceActions, type StepName } from '../store/interface-slice'
import { useAppDispatch, useAppSelector } from '../store/store'
import styles from './controls.module.css'
import { IconAction } from './icon-action'

/** What a step is for, in one sentence, until it is put away. */
export function Intro({ step, children }: { step: StepName; children: string }) {
  const closed = useAppSelector((root) => root.interface.introsClosed.includes(step))
  const dispatch = useAppDispatch()
  if (closed) return null
  return (
    <div className={styles.intro}>
      <Typography noWrap title={children}>
        {children}
      </Typography>
      <IconAction
        label="Put this sentence away"
        icon={<CloseIcon />}
        onClick={() => dispatch(interfaceActions.introClosed(step))}
      />
    </div>
  )
}
