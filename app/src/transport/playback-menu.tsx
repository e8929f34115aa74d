import MoreIcon from '@mui/icons-material/ArrowDropDown'
import Divider from '@mui/material/Divider'
import Menu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'
import ToggleButton from '@mui/material/ToggleButton'
import { errorSentence, playbackKey } from '@sober-prism/engine'
import { useState } from 'react'
import { useFilePicker } from '../controls/use-file-picker'
import { useDesk, useSignal } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { useAppDispatch } from '../store/store'
import { hearThrough, playbackTitle, takeImpulse, usePlaybacks } from './playbacks'

/** A button that opens what everything can be heard through; pressed while it is. */
export function PlaybackMenu({ disabled }: { disabled: boolean }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const desk = useDesk()
  const now = useSignal(desk.elsewhere.state)
  const choices = usePlaybacks()
  const dispatch = useAppDispatch()
  const close = () => setAnchor(null)
  const take = async (given: File) => {
    try {
      hearThrough(desk, await takeImpulse(given))
    } catch (error) {
      dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning'))
    }
  }
  const [openFile, field] = useFilePicker('.wav,.aif,.aiff', 'impulse-file', (f) => void take(f))
  return (
    <>
      <ToggleButton
        value="playback"
        selected={now !== null}
        disabled={disabled}
        aria-haspopup="menu"
        title="Listen as on other devices, at equal loudness (P)"
        onClick={(e) => setAnchor(e.currentTarget)}
      >
        Playback
        <MoreIcon fontSize="small" sx={{ mr: '-6px' }} />
      </ToggleButton>
      {field}
      <Menu
        anchorEl={anchor}
        open={anchor !== null}
        onClose={close}
        slotProps={{ list: { 'aria-label': 'Playback', dense: true } }}
      >
        {choices.map((choice) => {
          const isOn = now !== null && playbackKey(now.choice) === playbackKey(choice)
          return (
            <MenuItem
              key={playbackKey(choice)}
              role="menuitemcheckbox"
              aria-checked={isOn}
              onClick={() => {
                close()
                hearThrough(desk, choice)
              }}
            >
              {isOn ? '✓ ' : ''}
              {playbackTitle(choice)}
            </MenuItem>
          )
        })}
        <Divider />
        <MenuItem
          onClick={() => {
            close()
            openFile()
          }}
        >
          Load an impulse response…
        </MenuItem>
      </Menu>
    </>
  )
}
