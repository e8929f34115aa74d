import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import ToggleButton from '@mui/material/ToggleButton'
import Tooltip from '@mui/material/Tooltip'
import { shallowEqual } from 'react-redux'
import { useDesk, useHeard, useSignal } from '../shell/desk-context'
import { useHear } from '../shell/use-hear'
import { interfaceActions } from '../store/interface-slice'
import { openSession } from '../store/selectors'
import { store, useAppDispatch, useAppSelector } from '../store/store'
import { Bypass } from './bypass'
import { Channels } from './channels'
import { clearListening, listeningWords } from './listening'
import { PlaybackMenu } from './playback-menu'
import styles from './transport.module.css'

/** Ways of listening, and in one place everything that is switched on for listening only. */
export function ListeningPanel({ disabled }: { disabled: boolean }) {
  const desk = useDesk()
  const heard = useHeard()
  const through = useSignal(desk.elsewhere.state)
  const dispatch = useAppDispatch()
  const { position, dim } = useAppSelector((root) => root.interface.listening)
  const isCompare = heard !== null && 'target' in heard.rendition
  const words = useAppSelector(
    (root) => listeningWords(openSession(root), root.interface, heard, through),
    shallowEqual,
  )
  const hear = useHear()
  const compare = () => hear(isCompare ? null : { kind: 'without', target: { of: 'all' } })
  return (
    <section className={styles.listening} aria-label="Listening">
      <Box
        sx={{
          display: 'flex',
          gap: '4px',
          whiteSpace: 'nowrap',
          '& .MuiToggleButton-root': { px: '4px' },
        }}
      >
        <Tooltip title="Fold to mono (O)">
          <ToggleButton
            value="mono"
            selected={position === 'mono'}
            onClick={() => dispatch(interfaceActions.positionSwitched('mono'))}
          >
            Mono
          </ToggleButton>
        </Tooltip>
        <Channels />
        <PlaybackMenu disabled={disabled} />
        <Tooltip title="20 dB lower (U)">
          <ToggleButton
            value="dim"
            selected={dim}
            onClick={() => dispatch(interfaceActions.dimSwitched())}
          >
            Dim
          </ToggleButton>
        </Tooltip>
        <Bypass disabled={disabled} />
      </Box>
      <Box
        sx={{
          display: 'flex',
          alignItems: 'center',
          minHeight: 22,
          fontSize: 13,
          color: 'text.secondary',
          '&[data-on="true"]': { color: 'primary.main', fontWeight: 600 },
        }}
        data-on={words.length > 0}
      >
        <span role="status" className="clip" title={words.join(', ')}>
          {words.length > 0 ? `Listening only: ${words.join(', ')}` : 'As rendered'}
        </span>
        <Button
          variant="text"
          aria-label="Turn all off"
          title="Key 0"
          sx={{ minHeight: 20, py: 0, visibility: words.length > 0 ? 'visible' : 'hidden' }}
          onClick={() => clearListening(store, desk)}
        >
          Off
        </Button>
        <Box component="span" sx={{ flex: 1 }} />
        <Tooltip title="Bypass all, at equal loudness (F)">
          <span>
            <ToggleButton
              value="fair"
              selected={isCompare}
              disabled={disabled}
              sx={{ whiteSpace: 'nowrap' }}
              onClick={compare}
            >
              Fair compare
            </ToggleButton>
          </span>
        </Tooltip>
      </Box>
    </section>
  )
}
