import type { Plan } from '@sober-prism/core/findings'
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

/**
 * What applying the first steps of a plan does. A step that makes room, or raises a lead, is for the lead; any other stands
 * on the prediction of the finding that offers it.
 */
export function editsOfPlan(
  plan: Plan,
  count: number,
  leadId: string | null,
  findings: readonly SessionFinding[],
): Edit[] {
  return plan.steps.slice(0, count).flatMap((step, index) => {
    const { group, findingKey, heard, moves } = step
    const earlier = index === 0 ? plan.heardBefore : plan.steps[index - 1].heard
    const own = findings.find((f) => f.key === findingKey)?.predicted
    const isForLead = leadId !== null && (group === 'room' || group === 'boosts')
    const evidence = isForLead
      ? {
          findingKey: 'plan',
          measure: { of: 'heard' as const, track: leadId },
          before: earlier.get(leadId) ?? 0,
          predicted: heard.get(leadId) ?? 0,
        }
      : own && {
          findingKey: findingKey ?? 'plan',
          measure: own.measure,
          before: own.before,
          predicted: own.after,
        }
    return withIdentities(moves, newId, (edit) =>
      note(`step ${index + 1} of the plan`, edit === moves[0] ? (evidence ?? null) : null),
    )
  })
}

function note(reason: string, evidence: MoveNote['evidence']): MoveNote {
  return { reason: reason.slice(0, LONGEST_REASON), evidence }
}
