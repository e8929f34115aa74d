import AddIcon from '@mui/icons-material/Add'
import RemoveIcon from '@mui/icons-material/Close'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Popover from '@mui/material/Popover'
import Typography from '@mui/material/Typography'
import {
  DRAWN_LIMITS_DB,
  LONGEST_FIR,
  readDrawn,
  SHORTEST_FIR,
  tapsWithin,
} from '@sober-prism/core/filters'
import { type DrawnCurveParams, drawnWindow, type Treatment } from '@sober-prism/core/treatments'
import { useDeferredValue, useMemo, useState } from 'react'
import { Choice } from '../../controls/choice'
import { FieldGroup, FieldGroups } from '../../controls/field-group'
import { FigureField } from '../../controls/figure-field'
import { IconAction } from '../../controls/icon-action'
import { Pane, PlainList } from '../../controls/layout'
import { formatHz, signed } from '../../format'
import { useSession } from '../../store/selectors'
import type { EditorProps } from '../chain/treatment-editor'
import { pointAdded } from '../layers/drawn-points'
import { NeedlesPanel } from './needles-panel'

type DrawnCurve = Extract<Treatment, { kind: 'drawn-curve' }>

const WINDOWS = [
  ['hann', 'Hann'],
  ['blackman-harris', 'Blackman-Harris'],
  ['flat-top', 'flat top'],
  ['kaiser', 'Kaiser, 80 dB'],
] as const
/** Held within this where the length is chosen for one. */
const TOLERANCE_DB = 1

/** Curves to begin with. */
const STARTERS: readonly (readonly [string, DrawnCurveParams['points']])[] = [
  [
    'Flat',
    [
      { hz: 100, db: 0 },
      { hz: 1000, db: 0 },
      { hz: 8000, db: 0 },
    ],
  ],
  [
    'A voice line, 300 to 3400 Hz',
    [
      { hz: 220, db: -60 },
      { hz: 300, db: 0 },
      { hz: 3400, db: 0 },
      { hz: 4400, db: -60 },
    ],
  ],
  [
    'Heard through a wall',
    [
      { hz: 60, db: 0 },
      { hz: 200, db: -6 },
      { hz: 700, db: -24 },
      { hz: 3000, db: -48 },
      { hz: 9000, db: -60 },
    ],
  ],
  [
    'What a small loudspeaker plays',
    [
      { hz: 90, db: -36 },
      { hz: 220, db: -3 },
      { hz: 400, db: 0 },
      { hz: 9000, db: 0 },
      { hz: 15000, db: -18 },
    ],
  ],
]

/** How a drawn curve is joined and made into a filter, what that filter really does, and its points as a table. */
export function DrawnCurveEditor({ treatment, onChange }: EditorProps<DrawnCurve>) {
  const { params } = treatment
  const { sampleRateHz } = useSession()
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const settled = useDeferredValue(params)
  const reading = useMemo(() => {
    const { taps, phase } = settled
    return readDrawn(settled, { taps, phase, window: drawnWindow(settled) }, sampleRateHz)
  }, [settled, sampleRateHz])
  const latencyMs = (1000 * reading.kernel.latency) / sampleRateHz
  const set = (change: Partial<DrawnCurveParams>, gesture?: string) =>
    onChange({ ...params, ...change }, gesture)
  const choose = () => {
    const design = { phase: params.phase, window: drawnWindow(params) }
    set({ taps: tapsWithin(params, design, sampleRateHz, TOLERANCE_DB) })
  }
  return (
    <FieldGroups>
      <FieldGroup name="What is drawn">
        <Button onClick={(e) => setAnchor(e.currentTarget)}>
          {params.points.length} {params.points.length === 1 ? 'point' : 'points'} …
        </Button>
        <Popover
          open={anchor !== null}
          anchorEl={anchor}
          onClose={() => setAnchor(null)}
          anchorOrigin={{ vertical: 'top', horizontal: 'left' }}
          transformOrigin={{ vertical: 'bottom', horizontal: 'left' }}
        >
          <Points params={params} set={set} />
        </Popover>
        <NeedlesPanel params={params} rateHz={sampleRateHz} onChange={(next) => onChange(next)} />
        <Choice
          label="Interpolation"
          labelled
          value={params.joining}
          options={[
            ['smooth', 'Smooth curve'],
            ['straight', 'Straight lines'],
          ]}
          onChange={(joining) => set({ joining })}
        />
        <Choice
          label="Frequency axis"
          labelled
          value={params.axis}
          options={[
            ['log', 'octaves'],
            ['linear', 'hertz'],
          ]}
          onChange={(axis) => set({ axis })}
        />
      </FieldGroup>
      <FieldGroup name="The filter">
        <Choice
          label="Phase"
          labelled
          value={params.phase}
          options={[
            ['linear', 'linear phase'],
            ['minimum', 'minimum phase'],
          ]}
          onChange={(phase) => set({ phase })}
        />
        <Choice
          label="Window"
          labelled
          value={params.window}
          options={WINDOWS}
          onChange={(window) => set({ window })}
        />
        <FigureField
          label="Length"
          unit="taps"
          value={params.taps}
          limits={[SHORTEST_FIR, LONGEST_FIR]}
          format={(v) => v.toFixed(0)}
          step={(v, direction, fine) =>
            Math.max(
              SHORTEST_FIR,
              Math.min(LONGEST_FIR, Math.round(fine ? v + 16 * direction : v * 2 ** direction)),
            )
          }
          onChange={(taps, gesture) => set({ taps: Math.round(taps) }, gesture)}
        />
        <Button variant="text" onClick={choose}>
          Fit to ±{TOLERANCE_DB} dB
        </Button>
      </FieldGroup>
      <Typography variant="body2" color="textSecondary" sx={{ width: '100%' }}>
        {reading.worstDb < 0.05
          ? 'Exactly as drawn'
          : `Max deviation ${reading.worstDb.toFixed(1)} dB at ${formatHz(reading.worstHz)}`}
        ; {latencyMs < 0.05 ? 'no added latency' : `latency ${latencyMs.toFixed(1)} ms`}
        {reading.preEchoDb === null || reading.preEchoDb < -120
          ? ''
          : `, pre-ringing ${signed(reading.preEchoDb, 0)} dB`}
      </Typography>
    </FieldGroups>
  )
}

/** Curves to begin with. */
export function BeginWithCurve({
  onChoose,
}: {
  onChoose: (points: DrawnCurveParams['points']) => void
}) {
  return (
    <Box sx={{ width: 118 }}>
      <Choice
        label="Start from"
        value=""
        options={[['', 'Start from…'], ...STARTERS.map(([name]) => [name, name] as const)]}
        onChange={(name) => {
          const starter = STARTERS.find(([n]) => n === name)
          if (starter) onChoose([...starter[1]])
        }}
      />
    </Box>
  )
}

interface PointsProps {
  readonly params: DrawnCurveParams
  readonly set: (change: Partial<DrawnCurveParams>, gesture?: string) => void
}

/** The points as a table, to be typed. */
function Points({ params: { points }, set }: PointsProps) {
  const change = (i: number, to: Partial<{ hz: number; db: number }>, gesture?: string) => {
    const moved = points.map((p, k) => (k === i ? { ...p, ...to } : p))
    moved.sort((a, b) => a.hz - b.hz)
    if (moved.every((p, k) => k === 0 || p.hz > moved[k - 1].hz)) set({ points: moved }, gesture)
  }
  const add = () => {
    const last = points[points.length - 1]
    set({ points: pointAdded(points, Math.min(20_000, last.hz * 1.5), last.db) })
  }
  return (
    <Pane>
      <PlainList
        as="ol"
        sx={{
          gap: '4px',
          '& > li': { display: 'flex', alignItems: 'center', gap: '6px' },
          maxHeight: 300,
          overflowY: 'auto',
        }}
      >
        {points.map((point, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: points are told apart by their place.
          <li key={i}>
            <FigureField
              label={`Frequency of point ${i + 1}`}
              showLabel={false}
              unit="Hz"
              value={point.hz}
              limits={[10, 40_000]}
              format={(v) => `${Number(v.toPrecision(5))}`}
              step={(v, direction, fine) => v * 2 ** ((direction * (fine ? 0.1 : 1)) / 12)}
              onChange={(hz, gesture) => change(i, { hz: Number(hz.toPrecision(5)) }, gesture)}
            />
            <FigureField
              label={`Gain of point ${i + 1}`}
              showLabel={false}
              unit="dB"
              value={point.db}
              limits={DRAWN_LIMITS_DB}
              format={(v) => signed(v)}
              step={(v, direction, fine) => v + direction * (fine ? 0.1 : 1)}
              onChange={(db, gesture) => change(i, { db: Math.round(db * 10) / 10 }, gesture)}
            />
            <IconAction
              label={`Remove point ${i + 1}`}
              icon={<RemoveIcon fontSize="small" />}
              disabled={points.length < 2}
              onClick={() => set({ points: points.filter((_, k) => k !== i) })}
            />
          </li>
        ))}
      </PlainList>
      <Button variant="text" startIcon={<AddIcon />} onClick={add}>
        Point
      </Button>
    </Pane>
  )
}
