import Typography from '@mui/material/Typography'
import { PHASE_NAMES } from '@sober-prism/core/filters'
import type { Treatment } from '@sober-prism/core/treatments'
import type { PhaseCost } from '@sober-prism/engine'
import { memo, useCallback, useRef } from 'react'
import { Choice } from '../../controls/choice'
import { signed } from '../../format'
import { useDesk, useSignal } from '../../shell/desk-context'
import { useRouting } from '../../store/selectors'
import type { EditorProps } from '../chain/treatment-editor'

type Equaliser = Extract<Treatment, { kind: 'equaliser' }>
type Phase = Equaliser['params']['phase']
const PHASES = PHASE_NAMES.map((phase) => [phase, `${phase} phase`] as const)

/** The phase mode of an equaliser and what it costs; its bands stand on the sheet. */
export function EqualiserEditor({ node, treatment, onChange }: EditorProps<Equaliser>) {
  const { sampleRateHz } = useRouting()
  const cost = useSignal(useDesk().phaseCosts).get(`${node} ${treatment.id}`)
  const latest = useRef(treatment.params)
  latest.current = treatment.params
  const change = useRef(onChange)
  change.current = onChange
  const choose = useCallback((phase: Phase) => change.current({ ...latest.current, phase }), [])
  const { phase } = treatment.params
  return <PhaseChoice phase={phase} cost={costText(phase, cost, sampleRateHz)} onChoose={choose} />
}

interface PhaseChoiceProps {
  readonly phase: Phase
  readonly cost: string
  readonly onChoose: (phase: Phase) => void
}

const PhaseChoice = memo(function PhaseChoice({ phase, cost, onChoose }: PhaseChoiceProps) {
  return (
    <>
      <Choice
        label="Phase"
        labelled
        value={phase}
        title="Minimum: no latency. Mixed: gentle bands linear, under 12 ms. Linear: all bands linear."
        options={PHASES}
        onChange={onChoose}
      />
      <Typography variant="caption" color="textSecondary" noWrap aria-live="polite">
        {cost}
      </Typography>
    </>
  )
})

function costText(phase: Phase, cost: PhaseCost | undefined, rateHz: number): string {
  if (phase === 'minimum') return 'no latency'
  if (!cost) return 'no band needs it'
  const latency = `latency ${((1000 * cost.latencyFrames) / rateHz).toFixed(1)} ms`
  return cost.preEchoDb === null || cost.preEchoDb < -120
    ? latency
    : `${latency}, pre-ringing ${signed(cost.preEchoDb, 0)} dB`
}
