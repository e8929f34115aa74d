import { makeClip } from '@sober-prism/core/audio'
import {
  type CrossSpectrum,
  crossSpectrum,
  longTermLevels,
  makeBands,
} from '@sober-prism/core/spectrum'
import { clipOf } from './open-input'
import type { Answerer, Question } from './question'
import { clipsOfBoth, type TwoTracks, twoTracks } from './two-tracks'

/** Two tracks are added up over so much of the passage. */
export const MOST_PAIRED_SECONDS = 30

/** What is known of the sum of two tracks. */
export interface PairReading {
  /** Of the recordings as they are. */
  readonly cross: CrossSpectrum
  /** Level of each sixth-octave band of both behind their chains, added; in dB. */
  readonly sum: Float64Array
}

/** How two tracks add up over the beginning of the passage, each at its fader's level. */
export const pair: Question<{ readonly tracks: readonly [string, string] }, TwoTracks> = {
  label: 'Adding both up',
  prepare: ({ tracks }, asking) => twoTracks(asking, tracks, MOST_PAIRED_SECONDS),
}

export const answerPair: Answerer<TwoTracks, PairReading> = async (input, onProgress) => {
  const { tracks, recordings, stretch } = input
  const recorded = []
  for (const [i, track] of tracks.entries()) {
    recorded.push(await clipOf({ sound: track.recorded, recordings, stretch }))
    onProgress((i + 1) / 4)
  }
  const [first, second] = await clipsOfBoth(input)
  const count = Math.max(first.channels.length, second.channels.length)
  const added = Array.from({ length: count }, (_, c) => {
    const other = second.channels[c] ?? second.channels[0]
    return (first.channels[c] ?? first.channels[0]).map((v, i) => v + other[i])
  })
  const { sampleRateHz } = first
  return {
    cross: crossSpectrum(recorded[0].channels, recorded[1].channels, sampleRateHz),
    sum: longTermLevels(makeClip(sampleRateHz, added), makeBands('sixth')),
  }
}
