import NightIcon from '@mui/icons-material/DarkModeOutlined'
import MenuBookIcon from '@mui/icons-material/FindInPageOutlined'
import LightIcon from '@mui/icons-material/LightModeOutlined'
import RedoIcon from '@mui/icons-material/Redo'
import UndoIcon from '@mui/icons-material/Undo'
import EyesIcon from '@mui/icons-material/VisibilityOffOutlined'
import Button from '@mui/material/Button'
import { Link, NavLink, useParams } from 'react-router'
import { IconAction } from '../controls/icon-action'
import { redo, undo } from '../store/history'
import { interfaceActions } from '../store/interface-slice'
import { openSession } from '../store/selectors'
import { useAppDispatch, useAppSelector } from '../store/store'
import styles from './shell.module.css'
import { WorkNote } from './work-note'

/** The steps that work in this version, in the order of work. */
const STEPS = [
  ['gather', 'Gather'],
  ['survey', 'Survey'],
  ['clean', 'Clean'],
  ['fit', 'Fit'],
  ['shape', 'Shape'],
  ['deliver', 'Deliver'],
] as const

export function Header() {
  const { id = '' } = useParams()
  const name = useAppSelector((root) => openSession(root).name)
  const dispatch = useAppDispatch()
  const sheet = useAppSelector((root) => root.interface.sheet)
  const eyesClosed = useAppSelector((root) => root.interface.eyesClosed)
  const canUndo = useAppSelector((root) => root.session.past.length > 0)
  const canRedo = useAppSelector((root) => root.session.future.length > 0)
  const isNight = sheet === 'night'
  return (
    <header className={styles.header}>
      <Link className={styles.product} to="/" title="All sessions">
        Sober Prism
      </Link>
      <span className={`${styles.sessionName} clip`} title={name}>
        {name}
      </span>
      <nav className={styles.steps} aria-label="Steps">
        {STEPS.map(([path, name]) => (
          <NavLink key={path} to={`/session/${id}/${path}`}>
            {name}
          </NavLink>
        ))}
      </nav>
      <WorkNote />
      <div className={styles.tools}>
        <IconAction
          label="Undo"
          hint="Ctrl Z"
          icon={<UndoIcon />}
          disabled={!canUndo}
          onClick={() => dispatch(undo())}
        />
        <IconAction
          label="Redo"
          hint="Ctrl Shift Z"
          icon={<RedoIcon />}
          disabled={!canRedo}
          onClick={() => dispatch(redo())}
        />
        <IconAction
          label="Eyes closed"
          hint="hide all pictures (E)"
          icon={<EyesIcon />}
          pressed={eyesClosed}
          onClick={() => dispatch(interfaceActions.eyesSwitched())}
        />
        <IconAction
          label="Night"
          hint={isNight ? 'back to the light sheet (N)' : 'the night sheet (N)'}
          icon={isNight ? <LightIcon /> : <NightIcon />}
          pressed={isNight}
          onClick={() => dispatch(interfaceActions.sheetTurned())}
        />
        <Button
          startIcon={<MenuBookIcon />}
          aria-label="Commands"
          onClick={() => dispatch(interfaceActions.commandsSwitched(true))}
        >
          <span className={styles.wide}>Commands</span>
        </Button>
      </div>
    </header>
  )
}
