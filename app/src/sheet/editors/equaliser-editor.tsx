import Typography from '@mui/material/Typography'
import { PHASE_NAMES } from '@sober-prism/core/filters'
import type { Treatment } from '@sober-prism/core/treatments'
import type { PhaseCost } from '@sober-prism/engine'
import { useSyncExternalStore } from 'react'
import { Choice } from '../../controls/choice'
import { signed } from '../../format'
import { useDesk } from '../../shell/desk-context'
import { useSession } from '../../store/selectors'
import type { EditorProps } from '../treatment-editor'

type Equaliser = Extract<Treatment, { kind: 'equaliser' }>
type Phase = Equaliser['params']['phase']

/** The phase mode of an equaliser and what it costs; its bands stand on the sheet. */
export function EqualiserEditor({ node, treatment, onChange }: EditorProps<Equaliser>) {
  const { params } = treatment
  const { sampleRateHz } = useSession()
  const { phaseCosts } = useDesk()
  const cost = useSyncExternalStore(phaseCosts.watch, phaseCosts.read).get(
    `${node} ${treatment.id}`,
  )
  return (
    <>
      <Choice
        label="Phase"
        value={params.phase}
        title="Minimum: no latency. Mixed: gentle bands linear, under 12 ms. Linear: all bands linear."
        options={PHASE_NAMES.map((phase) => [phase, `${phase} phase`] as const)}
        onChange={(phase: Phase) => onChange({ ...params, phase })}
      />
      <Typography variant="caption" color="text.secondary" noWrap aria-live="polite">
        {costText(params.phase, cost, sampleRateHz)}
      </Typography>
    </>
  )
}

function costText(phase: Phase, cost: PhaseCost | undefined, rateHz: number): string {
  if (phase === 'minimum') return 'no latency'
  if (!cost) return 'no band needs it'
  const latency = `${((1000 * cost.latencyFrames) / rateHz).toFixed(1)} ms late`
  return cost.preEchoDb === null || cost.preEchoDb < -120
    ? latency
    : `${latency}, pre-echo ${signed(cost.preEchoDb, 0)} dB`
}
