import MoreIcon from '@mui/icons-material/ArrowDropDown'
import Menu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'
import ToggleButton from '@mui/material/ToggleButton'
import Typography from '@mui/material/Typography'
import type { Listening } from '@sober-prism/core/mix'
import { useState } from 'react'
import { interfaceActions } from '../store/interface-slice'
import { useAppDispatch, useAppSelector } from '../store/store'

/** Which channels are heard, and how they are told while they are. Mono has a button of its own. */
export const POSITION_WORDS: Readonly<Record<Listening['position'], string>> = {
  stereo: '',
  mono: 'mono',
  sides: 'side signal only',
  left: 'left channel only',
  right: 'right channel only',
  exchanged: 'left and right exchanged',
  turned: 'right channel inverted',
}

const CHOICES = ['sides', 'left', 'right', 'exchanged', 'turned'] as const

/** A button that opens what of both channels can be heard; pressed while something but both is. */
export function Channels() {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const position = useAppSelector((root) => root.interface.listening.position)
  const dispatch = useAppDispatch()
  const isOn = position !== 'stereo' && position !== 'mono'
  return (
    <>
      <ToggleButton
        value="channels"
        selected={isOn}
        aria-haspopup="menu"
        title="Listen to the sides, to one channel, or to both exchanged"
        onClick={(e) => setAnchor(e.currentTarget)}
      >
        Channels
        <MoreIcon fontSize="small" sx={{ mr: '-6px' }} />
      </ToggleButton>
      <Menu
        anchorEl={anchor}
        open={anchor !== null}
        onClose={() => setAnchor(null)}
        slotProps={{ list: { 'aria-label': 'Channels' } }}
      >
        {CHOICES.map((choice) => (
          <MenuItem
            key={choice}
            role="menuitemcheckbox"
            aria-checked={position === choice}
            onClick={() => {
              setAnchor(null)
              dispatch(interfaceActions.positionSwitched(choice))
            }}
          >
            {position === choice ? '✓ ' : ''}
            {POSITION_WORDS[choice]}
            {choice === 'sides' && (
              <Typography variant="caption" color="textSecondary" sx={{ ml: 'auto', pl: 2 }}>
                I
              </Typography>
            )}
          </MenuItem>
        ))}
      </Menu>
    </>
  )
}
