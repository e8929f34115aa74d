import { type Stretch, soundOf } from '@sober-prism/core/mix'
import { powerSpectrum } from '@sober-prism/core/spectrum'
import { follow, lengthOf, openInput } from './open-input'
import { type Answerer, type Question, type SoundInput, soundInput, wholeOf } from './question'

interface LoudestInput extends SoundInput {
  readonly fromHz: number
  readonly toHz: number
}

interface LoudestArgs {
  readonly node: string
  readonly fromHz: number
  readonly toHz: number
}

const FRAMES = 1024
/** What is heard around it. */
const BEFORE_SECONDS = 0.5
const AFTER_SECONDS = 0.8

/** Where a node is loudest in a range of frequency, behind its chain, within the passage: a stretch to loop. */
export const loudest: Question<LoudestArgs, LoudestInput> = {
  label: 'Looking for the loudest place',
  keeps: 40,
  async prepare({ node, fromHz, toHz }, asking) {
    const { session } = asking
    const input = await soundInput(asking, soundOf(session, node, 'chain'), wholeOf(session))
    return input && { ...input, fromHz, toHz }
  },
}

export const answerLoudest: Answerer<LoudestInput, Stretch | null> = async (
  { fromHz, toHz, ...input },
  onProgress,
) => {
  const { pieces } = openInput(input)
  const { sampleRateHz } = input.sound
  const spectrum = powerSpectrum({ size: FRAMES, window: 'hann' })
  const [low, high] = [fromHz, toHz].map((hz) => Math.round((hz * FRAMES) / sampleRateHz))
  const { fromFrame, toFrame } = input.stretch
  const block = new Float32Array(FRAMES)
  let [filled, at, most, place] = [0, fromFrame, 0, -1]
  await follow(pieces, lengthOf(input.stretch), onProgress, ([left, right = left]) => {
    for (let i = 0; i < left.length; i++) {
      block[filled++] = left[i] + right[i]
      if (filled < FRAMES) continue
      const power = spectrum(block)
      let sum = 0
      for (let k = low; k <= high; k++) sum += power[k]
      if (sum > most) [most, place] = [sum, at]
      at += FRAMES
      filled = 0
    }
  })
  if (place < 0) return null
  return {
    fromFrame: Math.max(fromFrame, place - Math.round(BEFORE_SECONDS * sampleRateHz)),
    toFrame: Math.min(toFrame, place + Math.round(AFTER_SECONDS * sampleRateHz)),
  }
}
