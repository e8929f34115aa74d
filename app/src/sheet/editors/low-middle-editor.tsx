import { CROSSOVER_SLOPES } from '@sober-prism/core/filters'
import type { LowEndSource, Treatment } from '@sober-prism/core/treatments'
import { Choice } from '../../controls/choice'
import { FieldGroup, FieldGroups } from '../../controls/field-group'
import { FigureField } from '../../controls/figure-field'
import type { EditorProps } from '../chain/treatment-editor'

type LowMiddle = Extract<Treatment, { kind: 'low-middle' }>
type Slope = LowMiddle['params']['slopeDbPerOct']
const SOURCES: readonly (readonly [LowEndSource, string])[] = [
  ['both', 'Both sides'],
  ['turned', 'Both, right inverted'],
  ['left', 'Left side'],
  ['right', 'Right side'],
]

/** Below which frequency, and how steeply, the low end is made mono, and of what. */
export function LowMiddleEditor({ treatment, onChange }: EditorProps<LowMiddle>) {
  const { params } = treatment
  return (
    <FieldGroups>
      <FieldGroup name="What is made mono">
        <FigureField
          label="Mono below"
          unit="Hz"
          value={params.hz}
          limits={[20, 1000]}
          format={(v) => `${Number(v.toPrecision(4))}`}
          step={(v, direction, fine) =>
            Number((v * 2 ** ((direction * (fine ? 0.1 : 1)) / 12)).toPrecision(4))
          }
          onChange={(hz, gesture) => onChange({ ...params, hz }, gesture)}
        />
        <Choice
          label="Slope"
          labelled
          value={params.slopeDbPerOct}
          options={CROSSOVER_SLOPES.map((slope) => [slope, `${slope} dB/oct`] as const)}
          onChange={(slopeDbPerOct: Slope) => onChange({ ...params, slopeDbPerOct })}
        />
        <Choice
          label="Low end from"
          labelled
          value={params.from}
          options={SOURCES}
          onChange={(from: LowEndSource) => onChange({ ...params, from })}
        />
      </FieldGroup>
    </FieldGroups>
  )
}
