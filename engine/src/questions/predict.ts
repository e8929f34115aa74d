import { type Prediction, predictMoves, type SurveyTracks } from '@sober-prism/core/findings'
import type { Edit } from '@sober-prism/core/session'
import type { Measure } from '@sober-prism/core/treatments'
import type { Answerer } from './question'

interface PredictInput {
  readonly survey: SurveyTracks & { readonly mixLevels: Float64Array | null }
  readonly measure: Measure
  readonly moves: readonly Edit[]
}

/** What moves would do to a measure. */
export const answerPredict: Answerer<PredictInput, Prediction> = ({ survey, measure, moves }) =>
  predictMoves(survey, measure, moves)
