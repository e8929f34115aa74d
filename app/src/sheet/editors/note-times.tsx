import Button from '@mui/material/Button'
import Popover from '@mui/material/Popover'
import Typography from '@mui/material/Typography'
import type { Tempo } from '@sober-prism/core/findings'
import { useRef, useState } from 'react'
import { Choice } from '../../controls/choice'
import { FigureField } from '../../controls/figure-field'
import { Pane, Row } from '../../controls/layout'
import { useDesk } from '../../shell/desk-context'
import { useWork } from '../../shell/use-asked'
import { byAmount } from './steps'

/** Note lengths in beats. */
const NOTES = [
  ['1/32', 0.125],
  ['1/16', 0.25],
  ['1/8', 0.5],
  ['1/8 dotted', 0.75],
  ['1/4', 1],
  ['1/2', 2],
] as const
/** Taps further apart than this begin anew. */
const PAUSE_MS = 2500

type TimeName = 'attackMs' | 'releaseMs'

/** What the passage told; undefined while it was not asked. */
interface Estimate {
  readonly found: Tempo | null | undefined
}
const NOT_ASKED: Estimate = { found: undefined }

/** A time as a note's length at a tempo that is typed, tapped, or estimated from the passage. */
export function NoteTimes({ onChoose }: { onChoose: (which: TimeName, ms: number) => void }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const [tempo, setTempo] = useState(120)
  const [which, setWhich] = useState<TimeName>('releaseMs')
  const [estimate, setEstimate] = useState(NOT_ASKED)
  const desk = useDesk()
  const { busy, trouble, run } = useWork()
  const taps = useRef<number[]>([])
  const tap = () => {
    const now = performance.now()
    const last = taps.current.at(-1)
    if (last !== undefined && now - last > PAUSE_MS) taps.current = []
    taps.current.push(now)
    const count = taps.current.length - 1
    if (count < 2) return
    const beat = (now - taps.current[0]) / count
    setTempo(Math.max(30, Math.min(300, Math.round(600_000 / beat) / 10)))
  }
  const listen = () =>
    run(async (options) => {
      const found = await desk.ask.tempo(undefined, options)
      setEstimate({ found })
      if (found) setTempo(Math.round(10 * found.beatsPerMinute) / 10)
    })
  return (
    <>
      <Button variant="text" onClick={(e) => setAnchor(e.currentTarget)}>
        As a note…
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'top', horizontal: 'left' }}
        transformOrigin={{ vertical: 'bottom', horizontal: 'left' }}
        slotProps={{ paper: { 'aria-label': 'Note lengths', role: 'dialog' } }}
      >
        <Pane>
          <FigureField
            label="Tempo"
            unit="BPM"
            value={tempo}
            limits={[30, 300]}
            format={(v) => v.toFixed(1)}
            step={byAmount(1)}
            onChange={setTempo}
          />
          <Row>
            <Button onClick={tap}>Tap</Button>
            <Button disabled={busy !== null} onClick={() => void listen()}>
              {busy !== null ? 'Analysing…' : 'Estimate from the passage'}
            </Button>
          </Row>
          <div aria-live="polite">
            {trouble && <Typography color="warning">{trouble}</Typography>}
            {busy === null && !trouble && <Estimated {...estimate} />}
          </div>
          <Choice
            label="Time to set"
            value={which}
            options={[
              ['releaseMs', 'Release'],
              ['attackMs', 'Attack'],
            ]}
            onChange={setWhich}
          />
          {NOTES.map(([name, beats]) => (
            <Button
              key={name}
              variant="text"
              onClick={() => {
                setAnchor(null)
                onChoose(which, Math.round((60_000 / tempo) * beats))
              }}
            >
              {name}: {Math.round((60_000 / tempo) * beats)} ms
            </Button>
          ))}
        </Pane>
      </Popover>
    </>
  )
}

function Estimated({ found }: Estimate) {
  if (found === undefined) return null
  return (
    <Typography variant="body2" color="textSecondary">
      {found
        ? `Estimate: ${found.beatsPerMinute.toFixed(1)} BPM, or half or double.`
        : 'No steady tempo in the passage.'}
    </Typography>
  )
}
