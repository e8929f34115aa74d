import { type Ring, RingMeter } from '@sober-prism/core/findings'
import type { NodeKind } from '../analysis/scheduler'
import type { Tools } from '../analysis/tools'
import { follow, lengthOf, openInput } from './open-input'
import type { Answerer, SoundInput } from './question'

/** Rings of a recording: they are the same however its chain grows, and looked for once. */
export const ringsNode: NodeKind<Tools & SoundInput, readonly [], readonly Ring[]> = {
  name: 'rings',
  version: 1,
  label: 'Measuring tracks and mix',
  keep: 'stored',
  run(_, { pool, beds: _beds, ...input }, { signal, onProgress }) {
    return pool.run('rings', input, { queueSignal: signal, onProgress })
  },
}

/** Fixed resonances of a sound. */
export const answerRings: Answerer<SoundInput, readonly Ring[]> = async (input, onProgress) => {
  const length = lengthOf(input.stretch)
  const meter = new RingMeter(input.sound.sampleRateHz, length)
  await follow(openInput(input).pieces, length, onProgress, (piece) => meter.add(piece))
  return meter.finish()
}
