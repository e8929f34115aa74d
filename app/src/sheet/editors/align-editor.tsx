import type { Treatment } from '@sober-prism/core/treatments'
import { FieldGroup, FieldGroups } from '../../controls/field-group'
import { FigureField } from '../../controls/figure-field'
import { TickBox } from '../../controls/tick-box'
import { signed } from '../../format'
import { useSession } from '../../store/selectors'
import type { EditorProps } from '../chain/treatment-editor'

const MOST_FRAMES = 48_000

/** Delay in frames and milliseconds, polarity, and a constant turn of phase. */
export function AlignEditor({
  treatment,
  onChange,
}: EditorProps<Extract<Treatment, { kind: 'align' }>>) {
  const { params } = treatment
  const { sampleRateHz } = useSession()
  const perMs = sampleRateHz / 1000
  return (
    <FieldGroups>
      <FieldGroup name="Time">
        <FigureField
          label="Delay"
          unit="samples"
          value={params.delayFrames}
          limits={[-MOST_FRAMES, MOST_FRAMES]}
          format={(v) => signed(v, 2).replace(/\.?0+$/, '')}
          step={(v, direction, fine) => Math.round(100 * (v + direction * (fine ? 0.1 : 1))) / 100}
          onChange={(delayFrames, gesture) => onChange({ ...params, delayFrames }, gesture)}
        />
        <FigureField
          label="Delay"
          showLabel={false}
          unit="ms"
          value={params.delayFrames / perMs}
          limits={[-MOST_FRAMES / perMs, MOST_FRAMES / perMs]}
          format={(v) => signed(v, 3)}
          step={(v, direction, fine) => v + direction * (fine ? 0.01 : 0.1)}
          onChange={(ms, gesture) => onChange({ ...params, delayFrames: ms * perMs }, gesture)}
        />
      </FieldGroup>
      <FieldGroup name="Polarity and phase">
        <TickBox
          label="Invert polarity"
          checked={params.polarity === -1}
          onChange={(turned) => onChange({ ...params, polarity: turned ? -1 : 1 })}
        />
        <FigureField
          label="Rotate phase"
          unit="°"
          value={params.turnDeg}
          limits={[-180, 180]}
          format={(v) => signed(v, 1)}
          step={(v, direction, fine) => Math.round(10 * (v + direction * (fine ? 1 : 5))) / 10}
          onChange={(turnDeg, gesture) => onChange({ ...params, turnDeg }, gesture)}
        />
      </FieldGroup>
    </FieldGroups>
  )
}
