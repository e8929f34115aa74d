import Typography from '@mui/material/Typography'
import type { Treatment } from '@sober-prism/core/treatments'
import { useCallback, useEffect, useRef } from 'react'
import { Row } from '../../controls/layout'
import { Plot, type Surface } from '../../plot/plot'
import { useDesk } from '../../shell/desk-context'
import { usePlace } from '../../transport/use-place'
import { drawReading } from './draw-reading'
import { type GainMoment, SHOWN_MS, withMoment } from './gain-history'
import { ReadingPanel } from './reading-panel'

/** A picture goes at least so far down and up, in dB. */
const LEAST_DB = 6

/** How far the bands of the treatment on the sheet were drawn in the last seconds: the furthest down, and the furthest up. */
export function GainsReading({ shown }: { shown: Treatment | null }) {
  const desk = useDesk()
  const place = usePlace()
  const signals = useRef([place.current])
  const moments = useRef<readonly GainMoment[]>([])
  const follows = shown?.kind === 'follow' || shown?.kind === 'duck'
  // biome-ignore lint/correctness/useExhaustiveDependencies: another treatment begins anew.
  useEffect(() => {
    moments.current = []
  }, [shown?.id])
  const draw = useCallback(
    (surface: Surface) => {
      const now = performance.now()
      const kept = withMoment(moments.current, now, desk.player.playing ? desk.player.gainsNow : [])
      moments.current = kept
      const at = kept.map((m) => m.at - now)
      const low = kept.reduce((least, m) => Math.min(least, m.lowest), -LEAST_DB)
      const high = kept.reduce((most, m) => Math.max(most, m.highest), 1)
      drawReading(surface, {
        lines: [
          { style: 'now', values: kept.map((m) => m.lowest), at },
          { style: 'other', values: kept.map((m) => m.highest), at },
        ],
        span: [1.05 * low, 1.05 * high],
        unit: 'dB',
        time: [-SHOWN_MS, 0],
      })
    },
    [desk],
  )
  return (
    <ReadingPanel aria-label="Gain over time">
      <Row sx={{ gap: '2px 10px', p: '4px 12px 4px 10px' }}>
        <Typography variant="h2">Gain over time</Typography>
        <Typography color="textSecondary">
          {follows
            ? 'Solid: largest cut. Dashed: largest boost.'
            : 'Select a dynamic treatment in the chain.'}
        </Typography>
      </Row>
      <Plot
        style={{ minHeight: 0 }}
        draw={draw}
        signals={signals.current}
        label="Gain of the bands over the last twenty seconds"
      />
    </ReadingPanel>
  )
}
