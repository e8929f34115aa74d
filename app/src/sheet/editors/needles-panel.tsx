import Button from '@mui/material/Button'
import Popover from '@mui/material/Popover'
import Typography from '@mui/material/Typography'
import { seriesHz, withNeedles } from '@sober-prism/core/filters'
import { type DrawnCurveParams, MOST_POINTS } from '@sober-prism/core/treatments'
import { useState } from 'react'
import { FigureField } from '../../controls/figure-field'
import { Pane } from '../../controls/layout'
import { formatHzWithNote, parseHz } from '../../format'
import { plumb } from '../../plot/plumb'
import { interfaceActions } from '../../store/interface-slice'
import { useAppDispatch } from '../../store/store'

const HIGHEST_HZ = 20_000
/** Windows in use are so many bins wide at their foot: a narrower needle is not held. */
const WINDOW_BINS = 6

interface NeedlesPanelProps {
  readonly params: DrawnCurveParams
  readonly rateHz: number
  readonly onChange: (params: DrawnCurveParams) => void
}

/** Needles on a tone, or on the harmonic series of a note, put into a drawn curve. */
export function NeedlesPanel({ params, rateHz, onChange }: NeedlesPanelProps) {
  const dispatch = useAppDispatch()
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const [hz, setHz] = useState(440)
  const [count, setCount] = useState(1)
  const [stretch, setStretch] = useState(0)
  const [widthHz, setWidthHz] = useState(24)
  const series = seriesHz({ hz, count, stretch }, HIGHEST_HZ)
  const heldHz = (WINDOW_BINS * rateHz) / params.taps
  const add = () => {
    const points = withNeedles(params, series, widthHz)
    if (points.length > MOST_POINTS) {
      const text = `A curve holds up to ${MOST_POINTS} points; these notches would make ${points.length}.`
      dispatch(interfaceActions.noticeShown(text, 'warning'))
      return
    }
    setAnchor(null)
    onChange({ ...params, points })
  }
  const step = (by: number) => (value: number, direction: 1 | -1, fine: boolean) =>
    value + direction * (fine ? by / 10 : by)
  return (
    <>
      <Button
        onClick={(e) => {
          setHz(plumb.value ? Number(plumb.value.toPrecision(4)) : hz)
          setAnchor(e.currentTarget)
        }}
      >
        Notches…
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'top', horizontal: 'left' }}
        transformOrigin={{ vertical: 'bottom', horizontal: 'left' }}
        slotProps={{ paper: { 'aria-label': 'Notches', role: 'dialog' } }}
      >
        <Pane>
          <FigureField
            label="Tone or note"
            unit="Hz"
            value={hz}
            limits={[20, HIGHEST_HZ]}
            read={parseHz}
            format={(v) => `${Number(v.toPrecision(5))}`}
            step={(v, direction, fine) => v * 2 ** ((direction * (fine ? 0.1 : 1)) / 12)}
            characters={8}
            onChange={setHz}
          />
          <FigureField
            label="Harmonics"
            value={count}
            limits={[1, 64]}
            format={(v) => v.toFixed(0)}
            step={step(1)}
            onChange={(v) => setCount(Math.round(v))}
          />
          <FigureField
            label="Inharmonicity"
            unit="ppm"
            value={1e6 * stretch}
            limits={[0, 5000]}
            format={(v) => v.toFixed(0)}
            step={step(100)}
            onChange={(v) => setStretch(v / 1e6)}
          />
          <FigureField
            label="Width"
            unit="Hz"
            value={widthHz}
            limits={[2, 400]}
            format={(v) => v.toFixed(1)}
            step={step(2)}
            onChange={setWidthHz}
          />
          <Typography variant="body2" color="textSecondary" sx={{ maxWidth: 260 }}>
            {formatHzWithNote(hz)}
            {series.length > 1 ? `, up to ${formatHzWithNote(series[series.length - 1])}` : ''}.
            Piano strings have about 400 ppm in the mid range, others less; 0 for exact multiples.
            {widthHz < heldHz &&
              ` With ${params.taps} taps a notch is at least ${heldHz.toFixed(0)} Hz wide; use more taps for less.`}
          </Typography>
          <Button variant="contained" onClick={add}>
            {series.length === 1 ? 'Add notch' : `Add ${series.length} notches`}
          </Button>
        </Pane>
      </Popover>
    </>
  )
}
