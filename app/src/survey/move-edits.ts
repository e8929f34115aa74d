import { type Plan, planEdits } from '@sober-prism/core/findings'
import { type Edit, type MoveNote, withIdentities } from '@sober-prism/core/session'
import type { SessionFinding } from '@sober-prism/engine'

const LONGEST_REASON = 500
const newId = () => crypto.randomUUID()

/** What applying a finding does to the session. */
export function editsOf(finding: SessionFinding, reason: string): Edit[] {
  const { predicted, key } = finding
  // The prediction is for all moves together; it stands at the first.
  const evidence = predicted && {
    findingKey: key,
    measure: predicted.measure,
    before: predicted.before,
    predicted: predicted.after,
  }
  return withIdentities(finding.moves, newId, (edit) =>
    note(reason, edit === finding.moves[0] ? evidence : null),
  )
}

/** What applying the first steps of a plan does. */
export function editsOfPlan(plan: Plan, count: number, leadId: string | null): Edit[] {
  return plan.steps.slice(0, count).flatMap((step, index) => {
    const earlier = index === 0 ? plan.heardBefore : plan.steps[index - 1].heard
    const evidence =
      leadId === null
        ? null
        : {
            findingKey: 'plan',
            measure: { of: 'heard' as const, track: leadId },
            before: earlier.get(leadId) ?? 0,
            predicted: step.heard.get(leadId) ?? 0,
          }
    return withIdentities(planEdits(step), newId, () =>
      note(`step ${index + 1} of the plan`, evidence),
    )
  })
}

function note(reason: string, evidence: MoveNote['evidence']): MoveNote {
  return { reason: reason.slice(0, LONGEST_REASON), evidence }
}
