import Button from '@mui/material/Button'
import Popover from '@mui/material/Popover'
import Typography from '@mui/material/Typography'
import { useRef, useState } from 'react'
import { FigureField } from '../../controls/figure-field'
import styles from '../sheet.module.css'
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

/** A time as a note's length at a tempo that is typed or tapped. */
export function NoteTimes({ onChoose }: { onChoose: (ms: number) => void }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const [tempo, setTempo] = useState(120)
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
  return (
    <>
      <Button variant="text" onClick={(e) => setAnchor(e.currentTarget)}>
        As a note …
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'top', horizontal: 'left' }}
        transformOrigin={{ vertical: 'bottom', horizontal: 'left' }}
        slotProps={{ paper: { 'aria-label': 'Release as a note', role: 'dialog' } }}
      >
        <div className={styles.points}>
          <FigureField
            label="Tempo"
            unit="beats a minute"
            value={tempo}
            limits={[30, 300]}
            format={(v) => v.toFixed(1)}
            step={byAmount(1)}
            onChange={setTempo}
          />
          <Button onClick={tap}>Tap</Button>
          <Typography variant="body2" color="text.secondary">
            The release as long as
          </Typography>
          {NOTES.map(([name, beats]) => (
            <Button
              key={name}
              variant="text"
              onClick={() => {
                setAnchor(null)
                onChoose(Math.round((60_000 / tempo) * beats))
              }}
            >
              {name}: {Math.round((60_000 / tempo) * beats)} ms
            </Button>
          ))}
        </div>
      </Popover>
    </>
  )
}
