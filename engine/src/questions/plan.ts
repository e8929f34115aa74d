import {
  type Finding,
  type Plan,
  type PlanGroup,
  planMoves,
  type SurveyInput,
} from '@sober-prism/core/findings'
import type { Answerer } from './question'

interface PlanInput {
  readonly survey: SurveyInput
  readonly findings: readonly Finding[]
  readonly groups: readonly PlanGroup[]
}

/** Moves for the whole, in the order in which one goes to work. */
export const answerPlan: Answerer<PlanInput, Plan> = ({ survey, findings, groups }, onProgress) =>
  planMoves(survey, findings, groups, onProgress)
