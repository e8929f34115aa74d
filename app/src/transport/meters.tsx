import Box from '@mui/material/Box'
import Tooltip from '@mui/material/Tooltip'
import { PREDICTED, signed } from '../format'
import { useAnalysis, useDesk, useSignal } from '../shell/desk-context'

/** Width of the readings, in pixels. */
export const METERS_WIDTH = 142

/** Loudness now and over the passage. */
export function Meters() {
  const { mix, foreseen } = useAnalysis('mix', 'foreseen')
  const truePeak = mix?.truePeakDbtp ?? null
  return (
    <Box
      component="dl"
      sx={{
        width: METERS_WIDTH,
        display: 'grid',
        gridTemplateColumns: '62px 68px',
        gap: '2px 12px',
        '& div': { display: 'flex', justifyContent: 'space-between' },
        '& dt': { color: 'text.secondary' },
        '& dd': { typography: 'figure', lineHeight: 1.5 },
        '& [data-over="true"] dd': { color: 'warning.main', fontWeight: 600 },
      }}
      aria-label="Meters"
    >
      <Tooltip title="Momentary loudness, 400 ms">
        <div>
          <dt>M</dt>
          <LiveFigure of="momentaryLufs" />
        </div>
      </Tooltip>
      <Tooltip title="Short-term loudness, 3 s">
        <div>
          <dt>S</dt>
          <LiveFigure of="shortTermLufs" />
        </div>
      </Tooltip>
      <Tooltip title="Integrated loudness of the mix over the passage, LUFS">
        <div>
          <dt>I</dt>
          <dd>
            {foreseen && mix ? PREDICTED.trim() : ''}
            {figure(mix?.lufs ?? null)}
          </dd>
        </div>
      </Tooltip>
      <Tooltip title="True peak of the mix over the passage, dBTP">
        <div data-over={(truePeak ?? -1) > 0}>
          <dt>TP</dt>
          <dd>{figure(truePeak)}</dd>
        </div>
      </Tooltip>
    </Box>
  )
}

/** A figure that changes many times a second, by itself. */
function LiveFigure({ of }: { of: 'momentaryLufs' | 'shortTermLufs' }) {
  const live = useSignal(useDesk().live)
  return <dd>{figure(live?.[of] ?? null)}</dd>
}

function figure(value: number | null): string {
  return value === null ? '–' : signed(value)
}
