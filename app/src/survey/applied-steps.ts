import type { Move } from '@sober-prism/core/session'
import type { SessionFinding, SessionPlan } from '@sober-prism/engine'
import type { AppliedStep } from '../store/session-slice'

/** What applying a finding does to the session. */
export function stepsOf(finding: SessionFinding, reason: string): AppliedStep[] {
  const { predicted } = finding
  return finding.moves.map((proposed, index) => {
    if (proposed.kind === 'align') return proposed
    const { owner, stage, band } = proposed
    // The prediction is for all moves together; it stands at the first.
    const evidence =
      predicted && index === 0
        ? {
            findingKey: finding.key,
            measure: predicted.measure,
            before: predicted.before,
            predicted: predicted.after,
          }
        : null
    return { kind: 'move', owner, stage, move: newMove(band, reason, evidence) }
  })
}

/** What applying the first steps of a plan does. */
export function planSteps(plan: SessionPlan, count: number, leadId: string | null): AppliedStep[] {
  return plan.steps.slice(0, count).flatMap((step, index) => {
    const earlier = index === 0 ? plan.heardBefore : plan.steps[index - 1].heard
    const measure = leadId === null ? null : ({ of: 'heard', track: leadId } as const)
    const evidence = measure && {
      findingKey: 'plan',
      measure,
      before: earlier.get(measure.track) ?? 0,
      predicted: step.heard.get(measure.track) ?? 0,
    }
    const move = newMove(step.band, `step ${index + 1} of the plan`, evidence)
    const made: AppliedStep = { kind: 'move', owner: step.owner, stage: step.stage, move }
    return step.trimDb === 0
      ? [made]
      : [made, { kind: 'trim', owner: step.owner, db: step.trimDb } satisfies AppliedStep]
  })
}

function newMove(band: Move['band'], reason: string, evidence: Move['evidence']): Move {
  return { id: crypto.randomUUID(), on: true, band, reason: reason.slice(0, 500), evidence }
}
