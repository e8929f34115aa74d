import Tooltip from '@mui/material/Tooltip'
import { signed } from '../format'
import { useAnalysis, useDesk, useSignal } from '../shell/desk-context'
import styles from './transport.module.css'

/** Loudness now and over the passage. */
export function Meters() {
  const desk = useDesk()
  const { mix } = useAnalysis()
  const live = useSignal(desk.live)
  const rows = [
    ['M', live?.momentaryLufs, 'Momentary loudness, 400 ms'],
    ['S', live?.shortTermLufs, 'Short-term loudness, 3 s'],
    ['I', mix?.lufs, 'Integrated loudness of the mix over the passage, LUFS'],
    ['TP', mix?.truePeakDbtp, 'True peak of the mix over the passage, dBTP'],
  ] as const
  return (
    <dl className={styles.meters} aria-label="Meters">
      {rows.map(([name, value, words]) => (
        <Tooltip key={name} title={words}>
          <div data-over={name === 'TP' && (value ?? -1) > 0}>
            <dt>{name}</dt>
            <dd>{value === null || value === undefined ? '–' : signed(value)}</dd>
          </div>
        </Tooltip>
      ))}
    </dl>
  )
}
