import Slider from '@mui/material/Slider'
import { styled } from '@mui/material/styles'
import Typography from '@mui/material/Typography'
import { type AudibleEffect, effectOfBands } from '@sober-prism/core/findings'
import { DEFAULT_CALIBRATION } from '@sober-prism/core/hearing'
import {
  type BroadStrokesParams,
  MIX,
  MOST_LAYERS,
  MOST_STROKE_DB,
  STACKS,
  STROKES,
  type StrokeName,
  strokeControls,
  type Treatment,
} from '@sober-prism/core/treatments'
import { useMemo } from 'react'
import { Choice } from '../../controls/choice'
import { FieldGroup, FieldGroups } from '../../controls/field-group'
import { TickBox } from '../../controls/tick-box'
import { capital, formatHz, signed } from '../../format'
import { useAnalysis } from '../../shell/desk-context'
import { useSession } from '../../store/selectors'
import type { EditorProps } from '../chain/treatment-editor'
import { DbField } from './figures'

type BroadStrokes = Extract<Treatment, { kind: 'broad-strokes' }>

const LAYERS = Array.from(
  { length: MOST_LAYERS + 1 },
  (_, n) => [n, n === 0 ? 'none' : `${6 * n} dB/oct`] as const,
)

/** Marks on a slider, three decibels apart. */
const STEPS_DB = [-9, -6, -3, 0, 3, 6, 9].map((value) => ({ value }))

/** A few wide controls, each by its place and its gain, cuts that stack, and drive. */
export function BroadStrokesEditor({ node, treatment, onChange }: EditorProps<BroadStrokes>) {
  const { params } = treatment
  const effects = useStrokeEffects(node, treatment)
  const set = (change: Partial<BroadStrokesParams>, gesture?: string) =>
    onChange({ ...params, ...change }, gesture)
  const stroke = (name: StrokeName) => {
    const { hz, db } = params[name]
    const places: readonly number[] = STROKES[name].hz
    const setDb = (v: number, gesture?: string) =>
      set({ [name]: { hz, db: Math.round(v) } } as Partial<BroadStrokesParams>, gesture)
    return (
      <Stroke key={name}>
        <span>{capital(name)}</span>
        <Slider
          aria-label={capital(name)}
          getAriaValueText={(v) => `${signed(v, 0)} dB`}
          min={-MOST_STROKE_DB}
          max={MOST_STROKE_DB}
          marks={STEPS_DB}
          value={db}
          onChange={(_, v) => setDb(v as number, `slider ${name}`)}
        />
        <DbField
          label={capital(name)}
          showLabel={false}
          step={1}
          value={db}
          limits={[-MOST_STROKE_DB, MOST_STROKE_DB]}
          onChange={setDb}
        />
        <Choice
          label={`Frequency of ${name}`}
          value={hz as number}
          options={places.map((f) => [f, formatHz(f)] as const)}
          onChange={(f) => set({ [name]: { hz: f, db } } as Partial<BroadStrokesParams>)}
        />
        <Effect of={effects?.get(name)} />
      </Stroke>
    )
  }
  const cut = (end: 'low' | 'high') => {
    const name = `${end}Cut` as const
    const { hz, layers } = params[name]
    const places: readonly number[] = STACKS[end].hz
    const change = (values: object) =>
      set({ [name]: { ...params[name], ...values } } as Partial<BroadStrokesParams>)
    return (
      <Stroke>
        <span>{capital(end)} cut</span>
        <Slider
          aria-label={`Slope of ${end} cut`}
          getAriaValueText={(n) => LAYERS[n][1]}
          min={0}
          max={MOST_LAYERS}
          marks
          value={layers}
          onChange={(_, n) => change({ layers: n as number })}
        />
        <Choice
          label={`${capital(end)} cut`}
          value={layers}
          options={LAYERS}
          onChange={(n) => change({ layers: n })}
        />
        <Choice
          label={`Frequency of ${end} cut`}
          value={hz as number}
          options={places.map((f) => [f, formatHz(f)] as const)}
          onChange={(f) => change({ hz: f })}
        />
        <Effect of={effects?.get(name)} />
      </Stroke>
    )
  }
  return (
    <FieldGroups>
      <FieldGroup name="Lows" width={320}>
        {cut('low')}
        {stroke('weight')}
        {stroke('body')}
      </FieldGroup>
      <FieldGroup name="Highs" width={320}>
        {stroke('presence')}
        {stroke('air')}
        {cut('high')}
      </FieldGroup>
      <FieldGroup name="After the tone">
        <DbField
          label="Drive"
          value={params.driveDb}
          limits={[0, 18]}
          onChange={(driveDb, gesture) => set({ driveDb }, gesture)}
        />
        <DbField
          label="Output"
          value={params.outputDb}
          limits={[-24, 24]}
          onChange={(outputDb, gesture) => set({ outputDb }, gesture)}
        />
        <TickBox
          label="Polarity inverted"
          checked={params.polarity === -1}
          onChange={(turned) => set({ polarity: turned ? -1 : 1 })}
        />
      </FieldGroup>
    </FieldGroups>
  )
}

/** A control on a line of its own: name, slider with its steps, figure, place, and what it changes. */
const Stroke = styled('div')({
  display: 'grid',
  gridTemplateColumns: '62px minmax(60px, 1fr) auto auto 40px',
  alignItems: 'center',
  gap: 8,
  width: '100%',
})

/** What each control that does something changes of what is heard of the node by itself; null until it is measured. */
function useStrokeEffects(node: string, { on, params }: BroadStrokes) {
  const { tracks, groups, mix } = useAnalysis('tracks', 'groups', 'mix')
  const { sampleRateHz, listeningDbSpl } = useSession()
  const levels = node === MIX ? mix?.levels : (tracks.get(node)?.levels ?? groups.get(node)?.levels)
  return useMemo(() => {
    if (!levels) return null
    const calibration = { lufs: DEFAULT_CALIBRATION.lufs, dbSpl: listeningDbSpl }
    const has = on ? 'with' : 'without'
    return new Map(
      [...strokeControls(params)].map(
        ([name, bands]) =>
          [name, effectOfBands(bands, levels, has, sampleRateHz, calibration)] as const,
      ),
    )
  }, [levels, on, params, sampleRateHz, listeningDbSpl])
}

function Effect({ of }: { of: AudibleEffect | undefined }) {
  return (
    <Typography
      component="span"
      variant="caption"
      color="textSecondary"
      title="How much of the track’s own sound this changes"
      noWrap
    >
      {of ? `${(100 * of.share).toFixed(of.share < 0.1 ? 1 : 0)} %` : ''}
    </Typography>
  )
}
