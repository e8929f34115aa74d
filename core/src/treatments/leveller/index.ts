import type { TreatmentForm } from '../kind'
import { type LevellerParams, levellerParams } from './params'

export type { LevellerParams } from './params'

/** Gentle compression by a slow and a fast detector. */
export const leveller: TreatmentForm<'leveller', LevellerParams> = {
  kind: 'leveller',
  name: 'Leveller',
  params: levellerParams,
  takesKey: false,
  defaults: () => ({
    thresholdDb: -24,
    ratio: 3,
    kneeDb: 12,
    atMostDb: 4,
    detector: 'both',
    attackMs: 10,
    releaseMs: 120,
    lowCutHz: 80,
    mix: 1,
    outputDb: 0,
  }),
  file: { params: levellerParams, read: (file) => file, write: (params) => params },
  acts: ({ ratio, atMostDb, mix, outputDb }) =>
    outputDb !== 0 || (ratio > 1 && atMostDb > 0 && mix > 0),
  describe: ({ atMostDb, thresholdDb, ratio }) =>
    `max reduction ${atMostDb.toFixed(1)} dB above ${thresholdDb.toFixed(1).replace('-', '−')} dB, ${Number(ratio.toPrecision(2))}:1`,
}
