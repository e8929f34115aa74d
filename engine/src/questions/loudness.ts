import { LoudnessMeter } from '@sober-prism/core/loudness'
import { soundOf } from '@sober-prism/core/mix'
import { follow, lengthOf, openInput } from './open-input'
import { type Answerer, type Question, type SoundInput, soundInput, wholeOf } from './question'

/**
 * Gated loudness of a track through its chain and those of its groups, before its fader, over the passage, in LUFS; null
 * where it is silent.
 */
export const loudness: Question<{ readonly track: string }, SoundInput> = {
  label: 'Measuring loudness',
  keeps: 400,
  prepare({ track }, asking) {
    const { session } = asking
    return soundInput(asking, soundOf(session, track, 'placed'), wholeOf(session))
  },
}

export const answerLoudness: Answerer<SoundInput, number | null> = async (input, onProgress) => {
  const { channels, pieces } = openInput(input)
  const meter = new LoudnessMeter(input.sound.sampleRateHz, channels)
  await follow(pieces, lengthOf(input.stretch), onProgress, (piece) => meter.add(piece))
  return meter.read().integratedLufs
}
