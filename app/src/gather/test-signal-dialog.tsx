import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import Typography from '@mui/material/Typography'
import { writeWav } from '@sober-prism/core/audio'
import { type TestSignal, type TestSignalKind, testSignal } from '@sober-prism/core/signals'
import { useState } from 'react'
import { Choice } from '../controls/choice'
import { FigureField } from '../controls/figure-field'
import { formatHz, signed } from '../format'
import { useOpenSession } from '../shell/desk-context'
import { useSession } from '../store/selectors'

const KINDS: readonly (readonly [TestSignalKind, string])[] = [
  ['sine', 'Sine'],
  ['stepped-sine', 'Sine, stepped by thirds of an octave'],
  ['swept-sine', 'Sine, swept from 20 Hz to 20 kHz'],
  ['pink-noise', 'Pink noise'],
  ['white-noise', 'White noise'],
  ['impulse', 'Impulses, one a second'],
]

/** Noise has peaks 12 dB over its root mean square. */
const MOST_NOISE_DB = -12

/** Puts a test signal on a track of its own, to see with what a chain or a picture does. */
export default function TestSignalDialog({ onClose }: { onClose: () => void }) {
  const { sampleRateHz } = useSession()
  const { imports } = useOpenSession()
  const [kind, setKind] = useState<TestSignalKind>('pink-noise')
  const [hz, setHz] = useState(1000)
  const [levelDb, setLevelDb] = useState(-20)
  const [seconds, setSeconds] = useState(30)
  const isNoise = kind.endsWith('noise')
  const mostDb = isNoise ? MOST_NOISE_DB : 0
  const level = Math.min(levelDb, mostDb)
  const add = () => {
    const signal: TestSignal = kind === 'sine' ? { kind, hz } : { kind }
    const clip = testSignal(signal, { sampleRateHz, seconds, levelDb: level })
    const words = KINDS.find(([k]) => k === kind)?.[1] ?? kind
    const name = kind === 'sine' ? `Sine ${formatHz(hz)}` : words
    const bytes = new Uint8Array(writeWav(clip, '32f'))
    void imports.bring([new File([bytes], `${name}.wav`)], 'tracks')
    onClose()
  }
  const step = (by: number) => (value: number, direction: 1 | -1, fine: boolean) =>
    value + direction * (fine ? by / 10 : by)
  return (
    <Dialog open onClose={onClose} aria-labelledby="signal-title">
      <DialogTitle id="signal-title">Add a test signal</DialogTitle>
      <DialogContent sx={{ display: 'grid', gap: '10px', justifyItems: 'start', maxWidth: 380 }}>
        <Choice label="Signal" value={kind} options={KINDS} onChange={setKind} />
        {kind === 'sine' && (
          <FigureField
            label="Frequency"
            unit="Hz"
            value={hz}
            limits={[20, Math.min(20000, sampleRateHz / 2.2)]}
            format={(v) => `${Number(v.toPrecision(5))}`}
            step={(v, direction, fine) =>
              Number((v * 2 ** (direction / (fine ? 120 : 12))).toPrecision(5))
            }
            onChange={setHz}
          />
        )}
        <FigureField
          label={isNoise ? 'Level, RMS' : 'Level, peak'}
          unit="dBFS"
          value={level}
          limits={[-90, mostDb]}
          format={(v) => signed(v, 1)}
          step={step(1)}
          onChange={setLevelDb}
        />
        <FigureField
          label="Length"
          unit="s"
          value={seconds}
          limits={[1, 600]}
          format={(v) => `${Number(v.toFixed(1))}`}
          step={step(5)}
          onChange={setSeconds}
        />
        <Typography variant="body2" color="textSecondary">
          Pink noise reads flat on every strip; any tilt comes from the chain.
        </Typography>
      </DialogContent>
      <DialogActions>
        <Button variant="text" onClick={onClose}>
          Cancel
        </Button>
        <Button variant="contained" onClick={add}>
          Add track
        </Button>
      </DialogActions>
    </Dialog>
  )
}
