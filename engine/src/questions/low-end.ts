import { type LowEndReading, readLowEnd } from '@sober-prism/core/findings'
import { type Sound, type Stretch, soundOf } from '@sober-prism/core/mix'
import { chainOf, sessionWithChain } from '@sober-prism/core/session'
import { clipOf } from './open-input'
import { type Answerer, middleOf, type Question, type RecordingMap } from './question'

interface LowEndInput {
  readonly without: Sound
  readonly sound: Sound
  readonly recordings: RecordingMap
  readonly stretch: Stretch
  readonly hz: number
}

export interface LowEndPair {
  readonly before: LowEndReading
  readonly after: LowEndReading
}

/**
 * How left and right stand to each other below a frequency, behind a node's chain in the middle of the passage: without one
 * of its treatments and with it.
 */
export const lowEnd: Question<
  { readonly node: string; readonly treatment: string; readonly hz: number },
  LowEndInput
> = {
  label: 'Reading the low end',
  async prepare({ node, treatment, hz }, asking) {
    const { session } = asking
    const chain = chainOf(session, node)
    if (!chain) return null
    const treatments = chain.treatments.filter((t) => t.id !== treatment)
    const less = sessionWithChain(session, node, { ...chain, treatments })
    const [without, sound] = [less, session].map((s) => soundOf(s, node, 'chain'))
    const recordings = await asking.find(without, sound)
    if (!without || !sound || !recordings) return null
    return { without, sound, recordings, stretch: middleOf(session), hz }
  },
}

export const answerLowEnd: Answerer<LowEndInput, LowEndPair> = async ({
  without,
  hz,
  ...input
}) => ({
  before: readLowEnd(await clipOf({ ...input, sound: without }), hz),
  after: readLowEnd(await clipOf(input), hz),
})
