import {
  type CorrectionSettings,
  type MatchWays,
  matchWays,
  type Profile,
  responseWays,
  type SpectrumPair,
} from '@sober-prism/core/match'
import type { Answerer, Question } from './question'

interface MatchInput {
  readonly from: Profile
  readonly to: Profile
  readonly settings: CorrectionSettings
}

interface ResponsesInput {
  readonly pair: SpectrumPair
  readonly settings: CorrectionSettings
}

/** Ways to bring one profile to another. */
export const match: Question<MatchInput, MatchInput> = {
  label: 'Matching',
  prepare: (input) => input,
}

/** The same from one published response to another. */
export const matchResponses: Question<ResponsesInput, ResponsesInput> = {
  label: 'Matching',
  prepare: (input) => input,
}

export const answerMatch: Answerer<MatchInput, MatchWays> = ({ from, to, settings }, onProgress) =>
  matchWays(from, to, settings, onProgress)

export const answerMatchResponses: Answerer<ResponsesInput, MatchWays> = (
  { pair, settings },
  onProgress,
) => responseWays(pair, settings, onProgress)
