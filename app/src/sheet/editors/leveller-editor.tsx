import Typography from '@mui/material/Typography'
import type { LevellerParams, Treatment } from '@sober-prism/core/treatments'
import { Choice } from '../../controls/choice'
import { FieldGroup, FieldGroups } from '../../controls/field-group'
import { FigureField } from '../../controls/figure-field'
import type { EditorProps } from '../chain/treatment-editor'
import { DbField, HzField, MsField, PercentField } from './figures'
import { GainNow } from './gain-now'
import { LevelledOverTime } from './levelled-over-time'
import { byRatio } from './steps'

type Leveller = Extract<Treatment, { kind: 'leveller' }>

/** The values of a leveller, and what it does to the sound. */
export function LevellerEditor(props: EditorProps<Leveller>) {
  const { node, treatment } = props
  return (
    <>
      <LevellerValues {...props} />
      <Typography variant="caption" color="textSecondary">
        <GainNow node={node} treatment={treatment.id} />
      </Typography>
      <LevelledOverTime node={node} treatment={treatment} />
    </>
  )
}

/** Threshold, ratio, how much at most, times, and what the detector hears. */
export function LevellerValues({ treatment, onChange }: Omit<EditorProps<Leveller>, 'node'>) {
  const { params } = treatment
  const set = (change: Partial<LevellerParams>, gesture?: string) =>
    onChange({ ...params, ...change }, gesture)
  const db = (
    label: string,
    name: 'thresholdDb' | 'atMostDb' | 'kneeDb' | 'outputDb',
    limits: readonly [number, number],
  ) => (
    <DbField
      label={label}
      value={params[name]}
      limits={limits}
      onChange={(v, gesture) => set({ [name]: v }, gesture)}
    />
  )
  return (
    <FieldGroups>
      <FieldGroup name="How much">
        {db('Max reduction', 'atMostDb', [0, 24])}
        {db('Threshold', 'thresholdDb', [-80, 0])}
        <FigureField
          label="Ratio"
          unit=": 1"
          value={params.ratio}
          limits={[1, 100]}
          format={(v) => `${Number(v.toPrecision(3))}`}
          step={byRatio(1.1)}
          characters={4}
          onChange={(ratio, gesture) => set({ ratio }, gesture)}
        />
        {db('Knee', 'kneeDb', [0, 30])}
      </FieldGroup>
      <FieldGroup name="How fast">
        <Choice
          label="Detector"
          labelled
          value={params.detector}
          options={[
            ['both', 'Slow and fast'],
            ['fast', 'Fast only'],
          ]}
          onChange={(detector) => set({ detector })}
        />
        <MsField
          label="Attack"
          value={params.attackMs}
          limits={[0.1, 500]}
          onChange={(attackMs, gesture) => set({ attackMs }, gesture)}
        />
        <MsField
          label="Release"
          value={params.releaseMs}
          limits={[5, 5000]}
          onChange={(releaseMs, gesture) => set({ releaseMs }, gesture)}
        />
        <HzField
          label="Sidechain low cut"
          value={params.lowCutHz}
          limits={[20, 1000]}
          onChange={(lowCutHz, gesture) => set({ lowCutHz }, gesture)}
        />
      </FieldGroup>
      <FieldGroup name="What is heard">
        <PercentField
          label="Dry/wet"
          value={params.mix}
          onChange={(mix, gesture) => set({ mix }, gesture)}
        />
        {db('Output', 'outputDb', [-24, 24])}
      </FieldGroup>
    </FieldGroups>
  )
}
