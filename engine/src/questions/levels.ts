import { LoudnessMeter } from '@sober-prism/core/loudness'
import { LongTermMeter, makeBands } from '@sober-prism/core/spectrum'
import type { NodeKind } from '../analysis/scheduler'
import type { Tools } from '../analysis/tools'
import { follow, lengthOf, openInput } from './open-input'
import type { Answerer, SoundInput } from './question'

/** Level over frequency and loudness of a stretch. */
export interface Measured {
  /** Level of each sixth-octave band in dB. */
  readonly levels: Float64Array
  readonly lufs: number | null
}

type LevelsNode = NodeKind<Tools & SoundInput, readonly [], Measured>

/** What comes out of a group. */
export const groupNode: LevelsNode = {
  name: 'group',
  version: 2,
  label: 'Measuring groups',
  keep: 'stored',
  run(_, { pool, beds: _beds, ...input }, { signal, onProgress }) {
    return pool.run('levels', input, { queueSignal: signal, onProgress })
  },
}

/** A reference as a whole. */
export const referenceNode: LevelsNode = {
  name: 'reference',
  version: 6,
  label: 'Measuring references',
  keep: 'stored',
  run(_, { pool, beds: _beds, ...input }, { signal }) {
    return pool.run('levels', input, { queueSignal: signal })
  },
}

export const answerLevels: Answerer<SoundInput, Measured> = async (input, onProgress) => {
  const { channels, pieces } = openInput(input)
  const length = lengthOf(input.stretch)
  const { sampleRateHz } = input.sound
  const spectrum = new LongTermMeter(channels, length, sampleRateHz)
  const loudness = new LoudnessMeter(sampleRateHz, channels)
  await follow(pieces, length, onProgress, (piece) => {
    spectrum.add(piece)
    loudness.add(piece)
  })
  return { levels: spectrum.levels(makeBands('sixth')), lufs: loudness.read().integratedLufs }
}
