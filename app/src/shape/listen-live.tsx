import Button from '@mui/material/Button'
import LinearProgress from '@mui/material/LinearProgress'
import OutlinedInput from '@mui/material/OutlinedInput'
import Typography from '@mui/material/Typography'
import { SHORTEST_PROFILE_SECONDS } from '@sober-prism/core/match'
import {
  type CaptureReading,
  type CaptureSource,
  errorSentence,
  keepProfile,
  LiveCapture,
} from '@sober-prism/engine'
import { useEffect, useRef, useState } from 'react'
import { Column, Row } from '../controls/layout'
import { formatTime } from '../format'

/** Under this the figure counts as settled: half the time again moves it by less. */
const SETTLED_DB = 1
/** Range of the level's meter, in dB. */
const METER_DB = 60

const NOTHING: CaptureReading = {
  seconds: 0,
  peak: 0,
  silent: false,
  movedDb: null,
  paused: false,
  ended: false,
}

/** Listens to a tab, a screen or an input, and keeps a profile of it: its figures, never its sound. */
export function ListenLive({ onKept }: { onKept: (name: string) => void }) {
  const [source, setSource] = useState<CaptureSource | null>(null)
  const [reading, setReading] = useState(NOTHING)
  const [name, setName] = useState('')
  const [trouble, setTrouble] = useState<string | null>(null)
  const capture = useRef<LiveCapture | null>(null)
  const isGone = useRef(false)
  useEffect(() => {
    isGone.current = false
    return () => {
      isGone.current = true
      void capture.current?.stop()
    }
  }, [])
  const end = () => {
    void capture.current?.stop()
    capture.current = null
    setSource(null)
  }
  const begin = async (from: CaptureSource) => {
    setTrouble(null)
    setReading(NOTHING)
    setName(from === 'screen' ? 'A tab' : 'An input')
    try {
      const begun = await LiveCapture.begin(from, setReading)
      // One may have gone elsewhere before it was allowed.
      if (isGone.current) return void begun.stop()
      capture.current = begun
      setSource(from)
    } catch (error) {
      setTrouble(errorSentence(error))
    }
  }
  const keep = async () => {
    const kept = name.trim() || 'Live recording'
    try {
      const profile = capture.current?.profile({ name: kept })
      if (!profile) return
      await keepProfile(profile)
      end()
      onKept(kept)
    } catch (error) {
      setTrouble(errorSentence(error))
    }
  }
  const { seconds, peak, paused, ended } = reading
  return (
    <Column as="section" aria-label="Listen live">
      {source === null ? (
        <Row>
          <Button variant="text" onClick={() => void begin('screen')}>
            From a tab or screen…
          </Button>
          <Button variant="text" onClick={() => void begin('input')}>
            From an input…
          </Button>
        </Row>
      ) : (
        <>
          <Typography>
            {ended ? 'Ended.' : paused ? 'Paused.' : 'Listening.'} {formatTime(seconds)}
          </Typography>
          <LinearProgress
            variant="determinate"
            aria-label="Level"
            value={100 * Math.max(0, 1 + (20 * Math.log10(peak + 1e-9)) / METER_DB)}
          />
          <Typography variant="body2" color="textSecondary">
            {howSettled(reading)}
          </Typography>
          <OutlinedInput
            value={name}
            inputProps={{ 'aria-label': 'Name of the profile', maxLength: 200 }}
            onChange={(e) => setName(e.target.value)}
          />
          <Row>
            <Button onClick={() => void keep()}>Save profile</Button>
            <Button disabled={ended} onClick={() => capture.current?.pause(!paused)}>
              {paused ? 'Resume' : 'Pause listening'}
            </Button>
            <Button variant="text" onClick={end}>
              Discard
            </Button>
          </Row>
          <Typography variant="body2" color="textSecondary">
            Only these measurements are saved, never the audio. Nothing leaves this computer.
          </Typography>
        </>
      )}
      <div aria-live="polite">{trouble && <Typography color="warning">{trouble}</Typography>}</div>
    </Column>
  )
}

/** How far the figures can be trusted by now. */
function howSettled({ seconds, silent, movedDb }: CaptureReading): string {
  const left = SHORTEST_PROFILE_SECONDS - seconds
  if (silent && seconds > 1) return 'Only silence so far. Is its audio shared, and playing?'
  if (left > 0) {
    return `${Math.ceil(left)} s more needed for a long-term measurement.`
  }
  const moved = `${(movedDb ?? 0).toFixed(1)} dB change over the second half.`
  return movedDb === null || movedDb > SETTLED_DB
    ? `Not settled yet: ${moved}`
    : `Settled: ${moved}`
}
