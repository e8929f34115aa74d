import {
  type BroadStrokesParams,
  MOST_LAYERS,
  MOST_STROKE_DB,
  STACKS,
  STROKE_NAMES,
  STROKES,
  type StrokeName,
  type Treatment,
} from '@sober-prism/core/treatments'
import { Choice } from '../../controls/choice'
import { TickBox } from '../../controls/tick-box'
import { capital, formatHz } from '../../format'
import type { EditorProps } from '../treatment-editor'
import { DbField } from './figures'

type BroadStrokes = Extract<Treatment, { kind: 'broad-strokes' }>

const LAYERS = Array.from(
  { length: MOST_LAYERS + 1 },
  (_, n) => [n, n === 0 ? 'none' : `${6 * n} dB/oct`] as const,
)

/** A few wide controls, each by its place and its gain, cuts that stack, and drive. */
export function BroadStrokesEditor({ treatment, onChange }: EditorProps<BroadStrokes>) {
  const { params } = treatment
  const set = (change: Partial<BroadStrokesParams>, gesture?: string) =>
    onChange({ ...params, ...change }, gesture)
  const stroke = (name: StrokeName) => {
    const { hz, db } = params[name]
    const places: readonly number[] = STROKES[name].hz
    return (
      <span key={name}>
        <DbField
          label={capital(name)}
          step={1}
          value={db}
          limits={[-MOST_STROKE_DB, MOST_STROKE_DB]}
          onChange={(v, gesture) =>
            set({ [name]: { hz, db: Math.round(v) } } as Partial<BroadStrokesParams>, gesture)
          }
        />
        <Choice
          label={`Place of ${name}`}
          value={hz as number}
          options={places.map((f) => [f, formatHz(f)] as const)}
          onChange={(f) => set({ [name]: { hz: f, db } } as Partial<BroadStrokesParams>)}
        />
      </span>
    )
  }
  const cut = (end: 'low' | 'high') => {
    const name = `${end}Cut` as const
    const { hz, layers } = params[name]
    const places: readonly number[] = STACKS[end].hz
    const change = (values: object) =>
      set({ [name]: { ...params[name], ...values } } as Partial<BroadStrokesParams>)
    return (
      <span>
        <Choice
          label={`${capital(end)} cut`}
          value={layers}
          options={LAYERS.map(([n, text]) => [n, `${end} cut ${text}`] as const)}
          onChange={(n) => change({ layers: n })}
        />
        <Choice
          label={`Place of ${end} cut`}
          value={hz as number}
          options={places.map((f) => [f, formatHz(f)] as const)}
          onChange={(f) => change({ hz: f })}
        />
      </span>
    )
  }
  return (
    <>
      {cut('low')}
      {STROKE_NAMES.map(stroke)}
      {cut('high')}
      <DbField
        label="Drive"
        value={params.driveDb}
        limits={[0, 18]}
        onChange={(driveDb, gesture) => set({ driveDb }, gesture)}
      />
      <DbField
        label="Trim"
        value={params.outputDb}
        limits={[-24, 24]}
        onChange={(outputDb, gesture) => set({ outputDb }, gesture)}
      />
      <TickBox
        label="Polarity turned"
        checked={params.polarity === -1}
        onChange={(turned) => set({ polarity: turned ? -1 : 1 })}
      />
    </>
  )
}
