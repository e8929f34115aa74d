import {
  type BalanceTarget,
  type Finding,
  surveyTracks as findInTracks,
  type MixReading,
  type SurveyInput,
  type SurveyTracks,
  surveyMix,
} from '@sober-prism/core/findings'
import type { MaskingSums } from '@sober-prism/core/hearing'
import type { NodeKind } from '../analysis/scheduler'
import type { Answerer } from './question'
import type { TrackWithRings } from './rings'
import { type SurveySettings, surveyTracks } from './survey'
import type { MeasuredTrack } from './track'

/** What tracks have by themselves, and pairs that carry one source. */
export const trackFindingsNode: NodeKind<SurveySettings, readonly TrackWithRings[], Finding[]> = {
  name: 'track findings',
  version: 14,
  label: 'Listening to each track',
  keep: 'stored',
  run(measured, settings, { signal }) {
    const survey = surveyTracks(measured, settings)
    return settings.pool.run('trackFindings', survey, { queueSignal: signal })
  },
}

interface MixFindingsSettings extends SurveySettings {
  readonly target: BalanceTarget
}

/** Balance of the mix, pile-ups, and who covers whom: masking first, then the mix, then the tracks. None of it asks for rings. */
export const mixFindingsNode: NodeKind<
  MixFindingsSettings,
  readonly [MaskingSums, MixReading, ...MeasuredTrack[]],
  Finding[]
> = {
  name: 'mix findings',
  version: 15,
  label: 'Testing moves',
  keep: 'stored',
  run([sums, mix, ...measured], settings, { signal, onProgress }) {
    const survey: SurveyInput = {
      ...surveyTracks(measured, settings),
      sums,
      mixLevels: mix.levels,
      target: settings.target,
    }
    return settings.pool.run('mixFindings', survey, {
      queueSignal: signal,
      onProgress,
      first: true,
    })
  },
}

export const answerTrackFindings: Answerer<SurveyTracks, Finding[]> = findInTracks
export const answerMixFindings: Answerer<SurveyInput, Finding[]> = surveyMix
