import {
  PassageMeter,
  type PassageReading,
  SHORTEST_PASSAGE_SECONDS,
} from '@sober-prism/core/match'
import { type Stretch, soundOf } from '@sober-prism/core/mix'
import { sessionFrames } from '@sober-prism/core/session'
import { MIX } from '@sober-prism/core/treatments'
import { follow, lengthOf, openInput } from './open-input'
import { type Answerer, type Question, type SoundInput, soundInput } from './question'

interface PassageInput extends SoundInput {
  readonly chosen: Stretch | null
  readonly seconds: number
}

interface PassageAnswer {
  readonly chosen: PassageReading | null
  readonly proposed: PassageReading | null
  readonly extremes: { readonly quiet: PassageReading; readonly full: PassageReading } | null
}

/** How the passage stands to the whole mix, and the stretch of as many seconds that stands nearest to it. */
export const passage: Question<{ readonly seconds: number }, PassageInput> = {
  label: 'Analysing the whole mix',
  async prepare({ seconds }, asking) {
    const { session } = asking
    const stretch = { fromFrame: 0, toFrame: sessionFrames(session) }
    const input = await soundInput(asking, soundOf(session, MIX, 'chain'), stretch)
    return input && { ...input, chosen: session.passage, seconds }
  },
}

export const answerPassage: Answerer<PassageInput, PassageAnswer> = async (input, onProgress) => {
  const { sound, stretch, chosen, seconds } = input
  const { sampleRateHz } = sound
  const meter = new PassageMeter(sampleRateHz)
  await follow(openInput(input).pieces, lengthOf(stretch), onProgress, (piece) => meter.add(piece))
  const at = (frame: number) => (frame - stretch.fromFrame) / sampleRateHz
  return {
    chosen: chosen && meter.read(at(chosen.fromFrame), at(chosen.toFrame)),
    proposed: meter.propose(seconds),
    extremes: meter.extremes(Math.max(SHORTEST_PASSAGE_SECONDS, seconds / 2)),
  }
}
