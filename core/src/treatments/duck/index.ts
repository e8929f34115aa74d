import type { TreatmentKind } from '../kind'
import { type DuckDesign, designDuck } from './design'
import { DUCK_DEFAULTS, type DuckParams, duckParams } from './params'
import { DuckProcessor } from './processor'

export { DUCK_WIDTHS, type DuckParams } from './params'

/** A fine bank of bells gives way across the spectrum to what is listened to. Never lifts anything. */
export const duck: TreatmentKind<'duck', DuckParams, DuckDesign> = {
  kind: 'duck',
  name: 'Follow across the spectrum',
  params: duckParams,
  takesKey: true,
  defaults: () => DUCK_DEFAULTS,
  file: { params: duckParams, read: (file) => file, write: (params) => params },
  design: designDuck,
  isHeavy: () => true,
  latency: (_, { lookAheadFrames }) => lookAheadFrames,
  make: (sampleRateHz, channels) => new DuckProcessor(sampleRateHz, channels),
  acts: ({ depthDb, blend }) => depthDb > 0 && blend > 0,
  // What it does depends on the moment: nothing is drawn as if it stood.
  response: () => ({ sections: [], kernels: [], latency: 0, sign: 1, delayFrames: 0 }),
  describe: ({ law, depthDb, fromHz, toHz }) =>
    `${law === 'heard' ? 'as the key needs' : 'as the key is loud'}, at most ${depthDb.toFixed(1)} dB, ${Number(fromHz.toPrecision(3))} to ${Number(toHz.toPrecision(3))} Hz`,
}
