import Typography from '@mui/material/Typography'
import { DUCK_WIDTHS, type DuckParams, type Treatment } from '@sober-prism/core/treatments'
import { Choice } from '../../controls/choice'
import { FigureField } from '../../controls/figure-field'
import { TickBox } from '../../controls/tick-box'
import { parseHz, signed } from '../../format'
import { CHANNEL_NAMES } from '../names'
import type { EditorProps } from '../treatment-editor'
import { BeginWith } from './begin-with'
import { KeyChoice } from './key-choice'
import { byAmount, byRatio, bySemitone } from './steps'

type Duck = Extract<Treatment, { kind: 'duck' }>

const CHANNELS = (['stereo', 'mid', 'side'] as const).map((c) => [c, CHANNEL_NAMES[c]] as const)
const FINENESS = DUCK_WIDTHS.map((width, i) => [i + 1, `bands ${width} ERB wide`] as const)

/** How a sound gives way across its spectrum: by which law, how deep, how fast, how fine, and where. */
export function DuckEditor({ node, treatment, onChange }: EditorProps<Duck>) {
  const { params } = treatment
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
      <FigureField
        label={label}
        unit="Hz"
        value={params[name]}
        limits={isFrom ? [20, limit - 1] : [limit + 1, 20_000]}
        read={parseHz}
        format={(v) => `${Number(v.toPrecision(4))}`}
        step={bySemitone}
        onChange={(v, gesture) => set({ [name]: v }, gesture)}
      />
    )
  }
  return (
    <>
      <KeyChoice node={node} treatment={treatment} />
      <BeginWith
        treatment={treatment}
        onChoose={({ attackMs, releaseMs, bank }) => set({ attackMs, releaseMs, ...bank })}
      />
      <Choice
        label="Law"
        value={params.law}
        options={[
          ['heard', 'as the key needs to be heard'],
          ['even', 'as the key is loud'],
        ]}
        onChange={(law) => set({ law })}
      />
      <FigureField
        label="At most"
        unit="dB"
        value={params.depthDb}
        limits={[0, 24]}
        format={(v) => v.toFixed(1)}
        step={byAmount(0.5)}
        characters={4}
        onChange={(depthDb, gesture) => set({ depthDb }, gesture)}
      />
      <Choice
        label="Fineness"
        value={params.fineness}
        options={FINENESS}
        onChange={(fineness) => set({ fineness })}
      />
      <FigureField
        label="Attack"
        unit="ms"
        value={params.attackMs}
        limits={[1, 500]}
        format={(v) => `${Number(v.toPrecision(3))}`}
        step={byRatio(1.2)}
        characters={4}
        onChange={(attackMs, gesture) => set({ attackMs }, gesture)}
      />
      <FigureField
        label="Release"
        unit="ms"
        value={params.releaseMs}
        limits={[5, 5000]}
        format={(v) => `${Number(v.toPrecision(3))}`}
        step={byRatio(1.2)}
        characters={5}
        onChange={(releaseMs, gesture) => set({ releaseMs }, gesture)}
      />
      <TickBox
        label="Longer in the lows"
        checked={params.releaseByHz}
        onChange={(releaseByHz) => set({ releaseByHz })}
      />
      {hz('From', 'fromHz')}
      {hz('To', 'toHz')}
      {hz('Key from', 'keyFromHz')}
      {hz('Key to', 'keyToHz')}
      <Choice
        label="Acts on"
        value={params.channel}
        options={CHANNELS}
        onChange={(channel) => set({ channel })}
      />
      <FigureField
        label="Blend"
        unit="%"
        value={100 * params.blend}
        limits={[0, 100]}
        format={(v) => v.toFixed(0)}
        step={byAmount(5)}
        characters={4}
        onChange={(v, gesture) => set({ blend: v / 100 }, gesture)}
      />
      <FigureField
        label="Key"
        unit="dB"
        value={params.keyDb}
        limits={[-48, 48]}
        format={(v) => signed(v)}
        step={byAmount(0.5)}
        characters={5}
        onChange={(keyDb, gesture) => set({ keyDb }, gesture)}
      />
      <FigureField
        label="Look ahead"
        unit="ms"
        value={params.lookAheadMs}
        limits={[0, 10]}
        format={(v) => v.toFixed(1)}
        step={byAmount(1)}
        characters={4}
        onChange={(lookAheadMs, gesture) => set({ lookAheadMs }, gesture)}
      />
      <Typography variant="caption" color="text.secondary">
        {params.lookAheadMs === 0 ? 'no latency' : `${params.lookAheadMs.toFixed(1)} ms late`}
      </Typography>
    </>
  )
}
