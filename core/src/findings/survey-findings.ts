import { isVoice } from '../session'
import { alignmentFindings } from './alignment/alignment-findings'
import { readBalance } from './balance/balance'
import { balanceFindings } from './balance/balance-findings'
import type { Finding } from './finding'
import { maskingFindings } from './masking/masking-findings'
import { ownFindings } from './own/own-findings'
import { understoodFindings } from './own/understood'
import { rankFindings } from './rank-findings'
import { makeContext, type SurveyInput, type SurveyTracks } from './survey-input'

type Progress = (share: number) => void

/** All findings of a session, worst first. @param onProgress called with the share done. */
export function surveyFindings(input: SurveyInput, onProgress: Progress = () => {}): Finding[] {
  return rankFindings([
    ...surveyTracks(input, (share) => onProgress(0.5 * share)),
    ...surveyMix(input, (share) => onProgress(0.5 + 0.5 * share)),
  ])
}

/** What tracks have by themselves, and pairs that carry one source. Neither asks for masking or the mix. */
export function surveyTracks(input: SurveyTracks, onProgress: Progress = () => {}): Finding[] {
  const context = makeContext(input)
  return [
    ...ownFindings(context, (share) => onProgress(0.6 * share)),
    ...alignmentFindings(context, (share) => onProgress(0.6 + 0.4 * share)),
  ]
}

/** Balance of the mix, pile-ups, and who covers whom. */
export function surveyMix(input: SurveyInput, onProgress: Progress = () => {}): Finding[] {
  const context = makeContext(input)
  onProgress(0.2)
  // A slope is what finished music has: it says nothing of speech.
  const isSpeech = input.target.kind === 'slope' && input.tracks.every((t) => isVoice(t.role))
  const balance = isSpeech ? null : input.mixLevels && readBalance(input.mixLevels, input.target)
  const whole = balance ? balanceFindings(context, balance) : []
  onProgress(0.3)
  return [
    ...whole,
    ...understoodFindings(context),
    ...maskingFindings(context, whole, (share) => onProgress(0.3 + 0.7 * share)),
  ]
}
