import { decimate } from '@sober-prism/core/audio'
import { estimateTempo, type Tempo } from '@sober-prism/core/findings'
import { midAndSide } from '@sober-prism/core/hearing'
import { soundOf } from '@sober-prism/core/mix'
import { MIX } from '@sober-prism/core/treatments'
import { clipOf } from './open-input'
import { type Answerer, middleOf, type Question, type SoundInput, soundInput } from './question'

/** Onsets are looked for at about this rate. */
const RATE_HZ = 24_000

/** How fast the piece goes, by the mix in the middle of the passage; null where nothing recurs evenly. */
export const tempo: Question<void, SoundInput> = {
  label: 'Estimating the tempo',
  prepare(_, asking) {
    const { session } = asking
    return soundInput(asking, soundOf(session, MIX, 'chain'), middleOf(session))
  },
}

export const answerTempo: Answerer<SoundInput, Tempo | null> = async (input) => {
  const { channels, sampleRateHz } = await clipOf(input)
  const [middle] = midAndSide([...channels])
  const halvings = Math.max(0, Math.round(Math.log2(sampleRateHz / RATE_HZ)))
  return estimateTempo(decimate(middle, halvings), sampleRateHz / 2 ** halvings)
}
