import NightIcon from '@mui/icons-material/DarkModeOutlined'
import MenuBookIcon from '@mui/icons-material/FindInPageOutlined'
import HelpIcon from '@mui/icons-material/HelpOutlineOutlined'
import LightIcon from '@mui/icons-material/LightModeOutlined'
import RedoIcon from '@mui/icons-material/Redo'
import UndoIcon from '@mui/icons-material/Undo'
import EyesIcon from '@mui/icons-material/VisibilityOffOutlined'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { Link, NavLink, useParams } from 'react-router'
import { IconAction } from '../controls/icon-action'
import { Row } from '../controls/layout'
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
  ['check', 'Check'],
  ['deliver', 'Deliver'],
] as const

/** Left out where a window is narrow. */
const WIDE = { '@media (max-width: 1080px)': { display: 'none' } }

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
    <Row
      as="header"
      sx={{
        flex: '0 0 44px',
        flexWrap: 'nowrap',
        gap: { xs: '8px', md: '14px' },
        p: '0 10px 0 14px',
        borderBottom: 1,
        borderColor: 'divider',
        minWidth: 0,
      }}
    >
      <Link className={styles.product} to="/" title="All sessions">
        Sober Prism
      </Link>
      <Typography noWrap color="textSecondary" title={name} sx={{ flex: '0 1 190px', ...WIDE }}>
        {name}
      </Typography>
      <nav className={styles.steps} aria-label="Steps">
        {STEPS.map(([path, name]) => (
          <NavLink key={path} to={`/session/${id}/${path}`}>
            {name}
          </NavLink>
        ))}
      </nav>
      <WorkNote />
      <Row sx={{ flexWrap: 'nowrap', gap: '3px' }}>
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
          label="Dark theme"
          hint={isNight ? 'light theme (N)' : 'dark theme (N)'}
          icon={isNight ? <LightIcon /> : <NightIcon />}
          pressed={isNight}
          onClick={() => dispatch(interfaceActions.sheetTurned())}
        />
        <IconAction
          label="Help"
          hint="on this step (?)"
          icon={<HelpIcon />}
          onClick={() => dispatch(interfaceActions.helpSwitched(true))}
        />
        <Button
          startIcon={<MenuBookIcon />}
          aria-label="Commands"
          onClick={() => dispatch(interfaceActions.commandsSwitched(true))}
        >
          <Box component="span" sx={WIDE}>
            Commands
          </Box>
        </Button>
      </Row>
    </Row>
  )
}
