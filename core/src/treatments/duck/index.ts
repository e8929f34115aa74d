import type { TreatmentForm } from '../kind'
import { DUCK_DEFAULTS, type DuckParams, duckParams } from './params'

export { DUCK_WIDTHS, type DuckParams } from './params'

/** A fine bank of bells gives way across the spectrum to what is listened to. Never lifts anything. */
export const duck: TreatmentForm<'duck', DuckParams> = {
  kind: 'duck',
  name: 'Spectral ducking',
  params: duckParams,
  takesKey: true,
  defaults: () => DUCK_DEFAULTS,
  file: { params: duckParams, read: (file) => file, write: (params) => params },
  acts: ({ depthDb, blend }) => depthDb > 0 && blend > 0,
  describe: ({ law, depthDb, fromHz, toHz, phase }) =>
    `${law === 'heard' ? 'by key audibility' : 'by key level'}, max ${depthDb.toFixed(1)} dB, ${Number(fromHz.toPrecision(3))} to ${Number(toHz.toPrecision(3))} Hz${phase === 'linear' ? ', linear phase' : ''}`,
}
