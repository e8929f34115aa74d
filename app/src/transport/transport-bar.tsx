import PauseIcon from '@mui/icons-material/Pause'
import PlayIcon from '@mui/icons-material/PlayArrow'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import IconButton from '@mui/material/IconButton'
import Tooltip from '@mui/material/Tooltip'
import Typography from '@mui/material/Typography'
import { sessionFrames } from '@sober-prism/core/session'
import { errorSentence, type Lateness } from '@sober-prism/engine'
import { useEffect, useRef } from 'react'
import { shallowEqual } from 'react-redux'
import { TickBox } from '../controls/tick-box'
import { meaningOf } from '../controls/words'
import { formatTime } from '../format'
import { useDesk, useSignal } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { openSession } from '../store/selectors'
import { useAppDispatch, useAppSelector, useEdit } from '../store/store'
import { KeptPassages } from './kept-passages'
import { ListeningPanel } from './listening-panel'
import { METERS_WIDTH, Meters } from './meters'
import { Overview } from './overview'
import styles from './transport.module.css'

/** Time along the bottom: play, the overview with the passage, meters, and how one listens. */
export function TransportBar() {
  const { passage, loop, rate, hasSound } = useAppSelector((root) => {
    const session = openSession(root)
    const { passage, loop, sampleRateHz: rate } = session
    return { passage, loop, rate, hasSound: sessionFrames(session) > 0 }
  }, shallowEqual)
  const edit = useEdit()
  return (
    <footer className={styles.transport} id="playback" tabIndex={-1}>
      <Box
        sx={{
          display: 'grid',
          gridTemplateColumns: 'auto 1fr auto',
          alignItems: 'center',
          columnGap: '5px',
          minWidth: 0,
        }}
      >
        <PlayButton disabled={!hasSound} />
        <Clock />
        <TickBox
          label="Loop"
          checked={loop}
          onChange={(on) => edit([{ kind: 'set-session', change: { loop: on } }])}
        />
        <Box
          component="span"
          sx={{
            gridColumn: '1 / -1',
            display: 'flex',
            alignItems: 'center',
            pl: '6px',
            minHeight: 20,
            fontSize: 12.5,
            color: 'text.secondary',
            whiteSpace: 'nowrap',
          }}
        >
          <span className="clip" data-testid="passage" title={meaningOf('passage')}>
            {passage
              ? `passage ${formatTime(passage.fromFrame / rate)} to ${formatTime(passage.toFrame / rate)}`
              : 'passage: the whole piece'}
          </span>
          {passage && (
            <Button
              variant="text"
              aria-label="Use the whole piece as passage"
              sx={{ minHeight: 20, fontSize: 12.5, py: 0 }}
              onClick={() => edit([{ kind: 'set-session', change: { passage: null } }])}
            >
              Whole
            </Button>
          )}
          <KeptPassages />
        </Box>
      </Box>
      <Overview />
      <Box sx={{ '@media (max-width: 1080px)': { display: 'none' } }}>
        <Meters />
        <Trouble />
      </Box>
      <ListeningPanel disabled={!hasSound} />
    </footer>
  )
}

/** Audio problems since it was started, where anything did; has its place also while nothing did. */
function Trouble() {
  const desk = useDesk()
  const dispatch = useAppDispatch()
  const missed = useSignal(desk.player.missed)
  const late = useSignal(desk.player.late)
  const whole = [
    late.gaps > 0 ? lateText(late) : '',
    missed > 0 ? `${counted(missed, 'dropout')}: audio read too late` : '',
  ]
  const text = whole.filter(Boolean).join('; ')
  return (
    <Box
      role="status"
      aria-label="Audio problems"
      sx={{ width: METERS_WIDTH, height: 18, display: 'flex' }}
    >
      {text !== '' && (
        <Tooltip title={text}>
          <Button
            variant="text"
            color="warning"
            aria-label={text}
            onClick={() => dispatch(interfaceActions.noticeShown(text, 'warning'))}
            sx={{ minHeight: 18, fontSize: 12.5, lineHeight: 1, p: 0, color: 'warning.main' }}
          >
            <span className="clip">{counted(late.gaps + missed, 'dropout')}</span>
          </Button>
        </Tooltip>
      )}
    </Box>
  )
}

/** What a late machine did to the sound, and what is done about it. */
function lateText({ gaps, seconds, aheadSeconds }: Lateness): string {
  const ahead = aheadSeconds === null ? '' : `; now buffering ${aheadSeconds} s`
  const by = seconds < 0.05 ? 'less than 0.1' : seconds.toFixed(1)
  return `${counted(gaps, 'dropout')}: computer ${by} s late${ahead}`
}

function counted(count: number, what: string): string {
  return `${count} ${what}${count === 1 ? '' : 's'}`
}

function PlayButton({ disabled }: { disabled: boolean }) {
  const desk = useDesk()
  const dispatch = useAppDispatch()
  const playing = useSignal(desk.player.playingSignal)
  const play = () => {
    if (playing) return desk.player.pause()
    desk.player
      .play()
      .catch((error) => dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning')))
  }
  return (
    <IconButton
      disabled={disabled}
      aria-label={playing ? 'Pause' : 'Play'}
      onClick={play}
      sx={{ '& svg': { fontSize: 28 } }}
    >
      {playing ? <PauseIcon /> : <PlayIcon />}
    </IconButton>
  )
}

function Clock() {
  const desk = useDesk()
  const ref = useRef<HTMLSpanElement>(null)
  useEffect(() => {
    let frame = 0
    const show = () => {
      const text = formatTime(desk.player.positionFrames / desk.player.sampleRateHz)
      if (ref.current && ref.current.textContent !== text) ref.current.textContent = text
      frame = requestAnimationFrame(show)
    }
    show()
    return () => cancelAnimationFrame(frame)
  }, [desk])
  return (
    <Typography
      ref={ref}
      variant="figure"
      sx={{ fontSize: 17 }}
      role="timer"
      aria-label="Position"
    />
  )
}
