import { SourceMeter, type SourceReading } from '@sober-prism/core/findings'
import { planMoments } from '@sober-prism/core/hearing'
import { soundOf } from '@sober-prism/core/mix'
import { follow, lengthOf, openInput } from './open-input'
import { type Answerer, type Question, type SoundInput, soundInput, wholeOf } from './question'
import { shareReading } from './shared-arrays'

/** What short-time spectra tell of a node behind its chain over the passage, resonances among it. */
export const source: Question<{ readonly node: string }, SoundInput> = {
  label: 'Listening for problems',
  keeps: 4,
  prepare({ node }, asking) {
    const { session } = asking
    return soundInput(asking, soundOf(session, node, 'chain'), wholeOf(session))
  },
}

export const answerSource: Answerer<SoundInput, SourceReading> = async (input, onProgress) => {
  const { channels, pieces } = openInput(input)
  const { sampleRateHz } = input.sound
  const length = lengthOf(input.stretch)
  // How it is heard beside others is not asked.
  const moments = planMoments(sampleRateHz, length, [], 1)
  const meter = new SourceMeter({ sampleRateHz, channels, length, longest: length, moments })
  await follow(pieces, length, onProgress, (piece) => meter.add(piece))
  return shareReading(meter.finish())
}
