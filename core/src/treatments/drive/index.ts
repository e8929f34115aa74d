import type { TreatmentForm } from '../kind'
import { type DriveParams, driveParams } from './params'

export type { DriveParams } from './params'

/** Smooth saturation: loud moments become rounder and denser, quiet ones stay as they are. */
export const drive: TreatmentForm<'drive', DriveParams> = {
  kind: 'drive',
  name: 'Saturation',
  params: driveParams,
  takesKey: false,
  defaults: () => ({ driveDb: 6, mix: 1, outputDb: 0 }),
  file: { params: driveParams, read: (file) => file, write: (params) => params },
  acts: ({ mix, outputDb }) => mix > 0 || outputDb !== 0,
  describe: ({ driveDb, mix }) => `drive ${driveDb.toFixed(1)} dB, ${Math.round(100 * mix)} % wet`,
}
