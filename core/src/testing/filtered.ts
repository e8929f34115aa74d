import { type EqBand, Equaliser, newBand } from '../filters'

/** The rate of sounds that tests filter. */
const RATE_HZ = 48000

export const bell = (hz: number, db: number, q: number): EqBand => ({
  ...newBand('bell', hz),
  db,
  q,
})

/** A sound of 48 kHz through an equaliser with these bands. */
export function filtered(signal: Float32Array, ...bands: readonly EqBand[]): Float32Array {
  const out = signal.slice()
  const equaliser = new Equaliser()
  equaliser.prepare(RATE_HZ, 1)
  equaliser.set(bands.map((band, i) => ({ id: String(i), band })))
  equaliser.process([out], out.length)
  return out
}
