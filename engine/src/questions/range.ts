import { amplitudeToDb, samplePeak } from '@sober-prism/core/audio'
import { LoudnessMeter } from '@sober-prism/core/loudness'
import { soundOf } from '@sober-prism/core/mix'
import { follow, lengthOf, openInput } from './open-input'
import { type Answerer, type Question, type SoundInput, soundInput, wholeOf } from './question'

/** How uneven a sound is; null of what is too short or silent. */
export interface RangeReading {
  /** Loudness range (EBU Tech 3342), in LU. */
  readonly rangeLu: number | null
  /** How far its highest sample stands over its gated loudness, in dB. */
  readonly peakOverDb: number | null
}

/** How uneven a node is behind its chain, over the passage. */
export const range: Question<{ readonly node: string }, SoundInput> = {
  label: 'Measuring its range',
  keeps: 40,
  waits: true,
  prepare({ node }, asking) {
    const { session } = asking
    return soundInput(asking, soundOf(session, node, 'chain'), wholeOf(session))
  },
}

export const answerRange: Answerer<SoundInput, RangeReading> = async (input, onProgress) => {
  const { channels, pieces } = openInput(input)
  const meter = new LoudnessMeter(input.sound.sampleRateHz, channels)
  let peak = 0
  await follow(pieces, lengthOf(input.stretch), onProgress, (piece) => {
    meter.add(piece)
    peak = Math.max(peak, samplePeak(piece))
  })
  const { integratedLufs, loudnessRangeLu } = meter.read()
  return {
    rangeLu: loudnessRangeLu,
    peakOverDb: integratedLufs === null ? null : amplitudeToDb(peak) - integratedLufs,
  }
}
