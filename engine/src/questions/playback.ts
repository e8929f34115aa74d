import { resample } from '@sober-prism/core/audio'
import {
  heardPlayback,
  heardThrough,
  type SurveyTracks,
  type ThroughTrack,
} from '@sober-prism/core/findings'
import { LoudnessMeter } from '@sober-prism/core/loudness'
import {
  makePlayback,
  matchPlaybackLevels,
  type Playback,
  type PlaybackLevels,
  type PlaybackResponse,
  PlaybackRun,
  recordedPlayback,
} from '@sober-prism/core/playback'
import { follow, lengthOf, openInput } from './open-input'
import type { Answerer, Progress, SoundInput } from './question'

/** What one listens through: a description, or the recording of an impulse. */
export type PlaybackChoice =
  | { readonly kind: 'described'; readonly playback: Playback }
  | {
      readonly kind: 'recorded'
      readonly id: string
      readonly name: string
      readonly sampleRateHz: number
      readonly channels: readonly Float32Array[]
    }

interface PlaybackInput extends SoundInput {
  readonly choice: PlaybackChoice
  /** Level at which the session is listened to, in dB SPL. */
  readonly hereDbSpl: number
}

/** A playback that is ready to be heard, as loud as the sound without it. */
export interface ReadyPlayback {
  readonly response: PlaybackResponse
  readonly levels: PlaybackLevels
}

/** Its response at a rate. */
function responseOf(choice: PlaybackChoice, rateHz: number, hereDbSpl: number): PlaybackResponse {
  if (choice.kind === 'described') return makePlayback(choice.playback, rateHz, hereDbSpl)
  const { sampleRateHz, channels } = choice
  const clip = { sampleRateHz, channels: [...channels], frames: channels[0].length }
  return recordedPlayback(resample(clip, rateHz).channels)
}

/** Of a longer sound its middle tells how loud it is. */
const MOST_SECONDS = 90

export const answerPlayback: Answerer<PlaybackInput, ReadyPlayback> = async (
  { choice, hereDbSpl, ...input },
  onProgress,
) => {
  const { sampleRateHz } = input.sound
  const response = responseOf(choice, sampleRateHz, hereDbSpl)
  const { fromFrame, toFrame } = input.stretch
  const length = Math.min(toFrame - fromFrame, MOST_SECONDS * sampleRateHz)
  const from = fromFrame + Math.floor((toFrame - fromFrame - length) / 2)
  const middle = { ...input, stretch: { fromFrame: from, toFrame: from + length } }
  const lufs = await loudnessOf(middle, null, onProgress)
  const levels = await matchPlaybackLevels(
    choice.kind === 'described' ? choice.playback : null,
    lufs,
    (now) => loudnessOf(middle, { response, levels: now }, () => {}),
  )
  return { response, levels }
}

async function loudnessOf(
  input: SoundInput,
  through: ReadyPlayback | null,
  onProgress: Progress,
): Promise<number | null> {
  const { pieces } = openInput(input)
  const { sampleRateHz } = input.sound
  const meter = new LoudnessMeter(sampleRateHz, 2)
  const run = through && new PlaybackRun(through.response, through.levels, sampleRateHz)
  try {
    await follow(pieces, lengthOf(input.stretch), onProgress, ([left, right = left]) => {
      const sides = [left.slice(), right.slice()]
      run?.process(sides[0], sides[1], sides[0].length)
      meter.add(sides)
    })
  } finally {
    run?.dispose()
  }
  return meter.read().integratedLufs
}

interface HeardThroughInput {
  readonly survey: SurveyTracks
  readonly choice: PlaybackChoice
  readonly hereDbSpl: number
  readonly shares: ReadonlyMap<string, number>
}

/** Who is heard behind it. */
export const answerHeardThrough: Answerer<HeardThroughInput, ThroughTrack[]> = ({
  survey,
  choice,
  hereDbSpl,
  shares,
}) => {
  const { sampleRateHz } = survey.settings
  const response = responseOf(choice, sampleRateHz, hereDbSpl)
  const described =
    choice.kind === 'described'
      ? choice.playback
      : { dbSpl: null, listening: null, noise: null, asLoudAs: false }
  return heardThrough(survey, heardPlayback(response, described, sampleRateHz), shares)
}
