import { type Ring, RingMeter, ringsBehind, type SourceReading } from '@sober-prism/core/findings'
import type { TrimmedChain } from '@sober-prism/core/session'
import { respondChain } from '@sober-prism/core/treatments'
import type { NodeKind } from '../analysis/scheduler'
import type { Tools } from '../analysis/tools'
import { follow, lengthOf, openInput } from './open-input'
import type { Answerer, SoundInput } from './question'
import type { MeasuredTrack } from './track'

/** Rings of a recording: they are the same however its chain grows, and looked for once. */
export const ringsNode: NodeKind<Tools & SoundInput, readonly [], readonly Ring[]> = {
  name: 'rings',
  version: 1,
  label: 'Looking for resonances',
  keep: 'stored',
  run(_, { pool, beds: _beds, ...input }, { signal, onProgress }) {
    return pool.run('rings', input, { queueSignal: signal, onProgress })
  },
}

/** A measured track with the rings that its chain leaves of those in its recording. */
export interface TrackWithRings extends MeasuredTrack {
  readonly reading: SourceReading
}

interface ChainSettings {
  readonly chain: TrimmedChain
  readonly sampleRateHz: number
}

/** {@link TrackWithRings}, of the track behind its chain and the rings of its recording. */
export const trackWithRingsNode: NodeKind<
  ChainSettings,
  readonly [MeasuredTrack, readonly Ring[]],
  TrackWithRings
> = {
  name: 'track with rings',
  version: 1,
  label: 'Looking for resonances',
  keep: 'never',
  async run([track, recorded], { chain, sampleRateHz }) {
    const response = respondChain(chain.treatments, sampleRateHz, 'mid')
    const rings = ringsBehind(recorded, (hz) => response.db(hz))
    return { ...track, reading: { ...track.reading, rings } }
  },
}

/** Fixed resonances of a sound. */
export const answerRings: Answerer<SoundInput, readonly Ring[]> = async (input, onProgress) => {
  const length = lengthOf(input.stretch)
  const meter = new RingMeter(input.sound.sampleRateHz, length)
  await follow(openInput(input).pieces, length, onProgress, (piece) => meter.add(piece))
  return meter.finish()
}
