import {
  type CrossoverSpec,
  type CrossoverSum,
  crossoverSum as sumOf,
} from '@sober-prism/core/filters'
import { soundOf } from '@sober-prism/core/mix'
import { clipOf } from './open-input'
import { type Answerer, middleOf, type Question, type SoundInput, soundInput } from './question'

interface CrossoverInput extends SoundInput {
  readonly spec: CrossoverSpec
}

/** What the untouched bands of a crossover add up to, by the sound of a node behind its chain in the middle of the passage. */
export const crossoverSum: Question<
  { readonly node: string; readonly spec: CrossoverSpec },
  CrossoverInput
> = {
  label: 'Summing',
  async prepare({ node, spec }, asking) {
    const { session } = asking
    const input = await soundInput(asking, soundOf(session, node, 'chain'), middleOf(session))
    return input && { ...input, spec }
  },
}

export const answerCrossoverSum: Answerer<CrossoverInput, CrossoverSum> = async (input) =>
  sumOf(await clipOf(input), input.spec)
