import Typography from '@mui/material/Typography'
import { linearBankFrames } from '@sober-prism/core/dynamics'
import { DUCK_WIDTHS, type DuckParams, type Treatment } from '@sober-prism/core/treatments'
import { Choice } from '../../controls/choice'
import { FieldGroup, FieldGroups, MoreFields } from '../../controls/field-group'
import { TickBox } from '../../controls/tick-box'
import { useRouting } from '../../store/selectors'
import type { EditorProps } from '../chain/treatment-editor'
import { CHANNEL_NAMES } from '../names'
import { DbField, HzField, MsField, PercentField } from './figures'
import { KeyChoice } from './key-choice'

type Duck = Extract<Treatment, { kind: 'duck' }>

const CHANNELS = (['stereo', 'mid', 'side'] as const).map((c) => [c, CHANNEL_NAMES[c]] as const)
const FINENESS = DUCK_WIDTHS.map((width, i) => [i + 1, `${width} ERB bands`] as const)

/** How a sound gives way across its spectrum: by which law, how deep, how fast, how fine, and where. */
export function DuckEditor({ node, treatment, onChange }: EditorProps<Duck>) {
  const { params } = treatment
  const { sampleRateHz } = useRouting()
  const set = (change: Partial<DuckParams>, gesture?: string) =>
    onChange({ ...params, ...change }, gesture)
  const hz = (label: string, name: 'fromHz' | 'toHz' | 'keyFromHz' | 'keyToHz') => {
    const isFrom = name === 'fromHz' || name === 'keyFromHz'
    const other = {
      fromHz: 'toHz',
      toHz: 'fromHz',
      keyFromHz: 'keyToHz',
      keyToHz: 'keyFromHz',
    } as const
    const limit = params[other[name]]
    return (
      <HzField
        label={label}
        value={params[name]}
        limits={isFrom ? [20, limit - 1] : [limit + 1, 20_000]}
        onChange={(v, gesture) => set({ [name]: v }, gesture)}
      />
    )
  }
  return (
    <FieldGroups>
      <FieldGroup name="Listens to" width={600}>
        <KeyChoice
          node={node}
          treatment={treatment}
          hears={{ fromHz: params.keyFromHz, toHz: params.keyToHz }}
        />
        {hz('Key from', 'keyFromHz')}
        {hz('Key to', 'keyToHz')}
      </FieldGroup>
      <FieldGroup name="How far it ducks">
        <Choice
          label="Depth follows"
          labelled
          value={params.law}
          options={[
            ['heard', 'Key audibility'],
            ['even', 'Key level'],
          ]}
          onChange={(law) => set({ law })}
        />
        <DbField
          label="Max reduction"
          value={params.depthDb}
          limits={[0, 24]}
          onChange={(depthDb, gesture) => set({ depthDb }, gesture)}
        />
        <PercentField
          label="Dry/wet"
          value={params.blend}
          onChange={(blend, gesture) => set({ blend }, gesture)}
        />
      </FieldGroup>
      <FieldGroup name="Where">
        {hz('From', 'fromHz')}
        {hz('To', 'toHz')}
        <Choice
          label="Resolution"
          labelled
          value={params.fineness}
          options={FINENESS}
          onChange={(fineness) => set({ fineness })}
        />
        <Choice
          label="Acts on"
          labelled
          value={params.channel}
          options={CHANNELS}
          onChange={(channel) => set({ channel })}
        />
      </FieldGroup>
      <FieldGroup name="How fast">
        <MsField
          label="Attack"
          value={params.attackMs}
          limits={[1, 500]}
          onChange={(attackMs, gesture) => set({ attackMs }, gesture)}
        />
        <MsField
          label="Release"
          value={params.releaseMs}
          limits={[5, 5000]}
          onChange={(releaseMs, gesture) => set({ releaseMs }, gesture)}
        />
        <TickBox
          label="Slower release in the lows"
          checked={params.releaseByHz}
          onChange={(releaseByHz) => set({ releaseByHz })}
        />
      </FieldGroup>
      <MoreFields of="key level, phase, look ahead">
        <DbField
          label="Key level"
          value={params.keyDb}
          limits={[-48, 48]}
          onChange={(keyDb, gesture) => set({ keyDb }, gesture)}
        />
        <Choice
          label="Phase"
          labelled
          value={params.phase}
          options={[
            ['minimum', 'bells, minimum phase'],
            ['linear', 'linear phase'],
          ]}
          onChange={(phase) => set({ phase })}
        />
        {params.phase === 'minimum' && (
          <MsField
            by={1}
            label="Look ahead"
            value={params.lookAheadMs}
            limits={[0, 10]}
            onChange={(lookAheadMs, gesture) => set({ lookAheadMs }, gesture)}
          />
        )}
        <Typography variant="caption" color="textSecondary">
          {lateness(params, sampleRateHz)}
        </Typography>
      </MoreFields>
    </FieldGroups>
  )
}

function lateness({ phase, lookAheadMs }: DuckParams, sampleRateHz: number): string {
  const ms =
    phase === 'linear' ? (1000 * linearBankFrames(sampleRateHz)) / sampleRateHz : lookAheadMs
  return ms === 0 ? 'no latency' : `latency ${ms.toFixed(1)} ms`
}
