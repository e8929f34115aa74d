import MenuItem from '@mui/material/MenuItem'
import TextField from '@mui/material/TextField'
import { CROSSOVER_SLOPES } from '@sober-prism/core/filters'
import type { Treatment } from '@sober-prism/core/treatments'
import { FigureField } from '../../figure-field'
import type { EditorProps } from '../treatment-editor'

type LowMiddle = Extract<Treatment, { kind: 'low-middle' }>
type Slope = LowMiddle['params']['slopeDbPerOct']

/** Below which frequency, and how steeply, the sides are taken away. */
export function LowMiddleEditor({ treatment, onChange }: EditorProps<LowMiddle>) {
  const { params } = treatment
  return (
    <>
      <FigureField
        label="Sides away below"
        unit="Hz"
        value={params.hz}
        limits={[20, 1000]}
        format={(v) => `${Number(v.toPrecision(4))}`}
        step={(v, direction, fine) =>
          Number((v * 2 ** ((direction * (fine ? 0.1 : 1)) / 12)).toPrecision(4))
        }
        onChange={(hz, gesture) => onChange({ ...params, hz }, gesture)}
      />
      <TextField
        select
        size="small"
        variant="standard"
        label="Slope"
        value={params.slopeDbPerOct}
        onChange={(e) => onChange({ ...params, slopeDbPerOct: Number(e.target.value) as Slope })}
      >
        {CROSSOVER_SLOPES.map((slope) => (
          <MenuItem key={slope} value={slope}>
            {slope} dB/oct
          </MenuItem>
        ))}
      </TextField>
    </>
  )
}
