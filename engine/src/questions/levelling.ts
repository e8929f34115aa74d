import {
  LEVEL_STEP,
  type LevellerReading,
  type LevellerSettings,
  LevelSteps,
  readLeveller,
  thresholdFor,
} from '@sober-prism/core/dynamics'
import { soundOf } from '@sober-prism/core/mix'
import { type Chain, sessionWithChain } from '@sober-prism/core/session'
import { follow, lengthOf, openInput } from './open-input'
import { type Answerer, type Question, type SoundInput, soundInput, wholeOf } from './question'

type Settings = Omit<LevellerSettings, 'thresholdDb'>

interface LevellingInput extends SoundInput {
  readonly settings: Settings
}

/** Its threshold, and what is then taken; null where it cannot take so much. */
interface LevellingAnswer {
  readonly thresholdDb: number | null
  readonly reading: LevellerReading | null
}

/** The threshold with which a leveller behind a node's chain, or another one, takes just so much at the loudest of the passage. */
export const levelling: Question<
  { readonly node: string; readonly settings: Settings; readonly chain?: Chain },
  LevellingInput
> = {
  label: 'Finding the threshold',
  async prepare({ node, settings, chain }, asking) {
    const session = chain ? sessionWithChain(asking.session, node, chain) : asking.session
    const input = await soundInput(asking, soundOf(session, node, 'chain'), wholeOf(session))
    return input && { ...input, settings }
  },
}

export const answerLevelling: Answerer<LevellingInput, LevellingAnswer> = async (
  input,
  onProgress,
) => {
  const { settings, stretch, sound } = input
  const { channels, pieces } = openInput(input)
  const { sampleRateHz } = sound
  const steps = new LevelSteps(sampleRateHz, channels)
  steps.setLowCut(settings.lowCutHz)
  const frames = lengthOf(stretch)
  const levels = new Float32Array(Math.ceil(frames / LEVEL_STEP))
  let count = 0
  const isReading = (share: number) => onProgress(0.8 * share)
  await follow(pieces, frames, isReading, (piece) => {
    for (let i = 0; i < piece[0].length; i++) {
      const power = steps.add(piece, i)
      if (power >= 0) levels[count++] = power
    }
  })
  const heard = levels.subarray(0, count)
  const thresholdDb = thresholdFor(heard, settings, sampleRateHz)
  if (thresholdDb === null) return { thresholdDb, reading: null }
  return { thresholdDb, reading: readLeveller(heard, { ...settings, thresholdDb }, sampleRateHz) }
}
