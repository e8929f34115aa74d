import Typography from '@mui/material/Typography'
import { MATCH_TAPS, type MatchParams, type Treatment } from '@sober-prism/core/treatments'
import { Choice } from '../../controls/choice'
import { FieldGroup, FieldGroups } from '../../controls/field-group'
import { TickBox } from '../../controls/tick-box'
import type { EditorProps } from '../chain/treatment-editor'
import { DbField, HzField, PercentField } from './figures'

type Match = Extract<Treatment, { kind: 'match' }>

/** Widths of smoothing, as they are named. */
export const SMOOTHINGS = [
  ['1/12', 1 / 12],
  ['1/6', 1 / 6],
  ['1/3', 1 / 3],
  ['1/2', 1 / 2],
  ['1', 1],
  ['2', 2],
  ['erb', 'erb'],
] as const

/** What smoothing is called: an octave's part, or as wide as hearing's bands. */
export function smoothingName(smoothing: MatchParams['smoothing']): string {
  const found = SMOOTHINGS.find(
    ([, v]) => v === smoothing || (v !== 'erb' && Math.abs(v - Number(smoothing)) < 1e-6),
  )
  return found?.[0] ?? `${smoothing}`
}

const PHASES = [
  ['minimum', 'minimum phase'],
  ['mixed', 'mixed phase'],
  ['linear', 'linear phase'],
] as const

/** How much of a difference one long filter makes up, where, and how. */
export function MatchEditor({ treatment, onChange }: EditorProps<Match>) {
  const { params } = treatment
  const set = (change: Partial<MatchParams>, gesture?: string) =>
    onChange({ ...params, ...change }, gesture)
  if (params.weight.every((w) => w === 0)) {
    return (
      <Typography color="textSecondary">
        It has no target yet: compare with one in Shape, and take one long filter there.
      </Typography>
    )
  }
  return (
    <FieldGroups>
      <FieldGroup name={`Match to ${params.target}`}>
        <PercentField
          label="Amount"
          value={params.amount}
          most={1.5}
          onChange={(v, gesture) => set({ amount: v }, gesture)}
        />
        <DbField
          label="Max boost"
          value={params.mostBoostDb}
          limits={[0, 24]}
          onChange={(mostBoostDb, gesture) => set({ mostBoostDb }, gesture)}
        />
        <DbField
          label="Max cut"
          value={params.mostCutDb}
          limits={[0, 24]}
          onChange={(mostCutDb, gesture) => set({ mostCutDb }, gesture)}
        />
      </FieldGroup>
      <FieldGroup name="Where">
        <HzField
          label="From"
          value={params.fromHz}
          limits={[20, params.toHz - 1]}
          onChange={(fromHz, gesture) => set({ fromHz }, gesture)}
        />
        <HzField
          label="To"
          value={params.toHz}
          limits={[params.fromHz + 1, 20_000]}
          onChange={(toHz, gesture) => set({ toHz }, gesture)}
        />
        <Choice
          label="Smoothing"
          labelled
          value={smoothingName(params.smoothing)}
          options={SMOOTHINGS.map(([name]) => [
            name,
            name === 'erb' ? 'Auditory (ERB)' : `${name} oct`,
          ])}
          onChange={(name) => {
            const found = SMOOTHINGS.find(([n]) => n === name)
            if (found) set({ smoothing: found[1] })
          }}
        />
      </FieldGroup>
      <FieldGroup name="The filter">
        <Choice
          label="Phase"
          labelled
          value={params.phase}
          options={PHASES}
          onChange={(phase) => set({ phase })}
        />
        <Choice
          label="Length"
          labelled
          value={params.taps}
          options={MATCH_TAPS.map((taps) => [taps, `${taps} taps`] as const)}
          onChange={(taps) => set({ taps })}
        />
        <TickBox
          label="Keep loudness"
          checked={params.keepLoudness}
          onChange={(keepLoudness) => set({ keepLoudness })}
        />
      </FieldGroup>
    </FieldGroups>
  )
}
