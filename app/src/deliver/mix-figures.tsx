import Typography from '@mui/material/Typography'
import { sessionFrames } from '@sober-prism/core/session'
import { formatTime, signed } from '../format'
import { useAnalysis } from '../shell/desk-context'
import { useSession } from '../store/selectors'
import styles from './deliver.module.css'

/** What the mix measures, and what is left out of it. */
export function MixFigures() {
  const session = useSession()
  const { mix, fresh } = useAnalysis('mix', 'fresh')
  const muted = session.tracks.filter((t) => t.mute)
  const rows = [
    ['Length', formatTime(sessionFrames(session) / session.sampleRateHz)],
    ['Loudness over the passage', figure(mix?.lufs, 'LUFS')],
    ['True peak over the passage', figure(mix?.truePeakDbtp, 'dBTP')],
    ['Muted', muted.length === 0 ? 'none' : muted.map((t) => t.letter).join(' ')],
  ] as const
  return (
    <div className={styles.figures}>
      {!fresh && (
        <Typography variant="body2" color="text.secondary">
          Figures are being measured again.
        </Typography>
      )}
      <dl>
        {rows.map(([name, value]) => (
          <div key={name}>
            <dt>{name}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
      {(mix?.truePeakDbtp ?? -1) > 0 && (
        <Typography color="warning">
          The mix peaks above 0 dBTP: at 24 bit it would be clipped. Lower it by its output trim.
        </Typography>
      )}
    </div>
  )
}

function figure(value: number | null | undefined, unit: string): string {
  return value === null || value === undefined ? '–' : `${signed(value)} ${unit}`
}
