import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableRow from '@mui/material/TableRow'
import Typography from '@mui/material/Typography'
import { sessionFrames } from '@sober-prism/core/session'
import { Pane } from '../controls/layout'
import { formatTime, PREDICTED, signed } from '../format'
import { useAnalysis } from '../shell/desk-context'
import { useSession } from '../store/selectors'

/** What the mix measures, and what is left out of it. */
export function MixFigures() {
  const session = useSession()
  const { mix, fresh, foreseen } = useAnalysis('mix', 'fresh', 'foreseen')
  const muted = session.tracks.filter((t) => t.mute)
  const rows = [
    ['Length', formatTime(sessionFrames(session) / session.sampleRateHz)],
    [
      'Loudness over the passage',
      `${foreseen && mix ? PREDICTED : ''}${figure(mix?.lufs, 'LUFS')}`,
    ],
    ['True peak over the passage', figure(mix?.truePeakDbtp, 'dBTP')],
    ['Muted', muted.length === 0 ? 'none' : muted.map((t) => t.letter).join(' ')],
  ] as const
  return (
    <Pane sx={{ gap: '12px', py: '4px' }}>
      {!fresh && (
        <Typography variant="body2" color="textSecondary">
          Measuring again…
        </Typography>
      )}
      <Table>
        <TableBody>
          {rows.map(([name, value]) => (
            <TableRow key={name}>
              <TableCell component="th" scope="row">
                {name}
              </TableCell>
              <TableCell align="right">
                <Typography variant="figure" className="heard">
                  {value}
                </Typography>
              </TableCell>
            </TableRow>
          ))}
        </TableBody>
      </Table>
      {(mix?.truePeakDbtp ?? -1) > 0 && (
        <Typography color="warning">
          True peak above 0 dBTP: may clip in playback or conversion. Lower the mix output.
        </Typography>
      )}
    </Pane>
  )
}

function figure(value: number | null | undefined, unit: string): string {
  return value === null || value === undefined ? '–' : `${signed(value)} ${unit}`
}
