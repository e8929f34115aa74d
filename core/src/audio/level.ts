/** Level below which a power counts as silence, in dB. Keeps logarithms finite. */
export const SILENCE_DB = -200

/** Amplitude ratio to dB. Zero gives {@link SILENCE_DB}. */
export function amplitudeToDb(ratio: number): number {
  const magnitude = Math.abs(ratio)
  return magnitude > 1e-10 ? 20 * Math.log10(magnitude) : SILENCE_DB
}

/** dB to amplitude ratio. */
export function dbToAmplitude(db: number): number {
  return 10 ** (db / 20)
}

/** Power ratio to dB. Zero gives {@link SILENCE_DB}. */
export function powerToDb(power: number): number {
  return power > 1e-20 ? 10 * Math.log10(power) : SILENCE_DB
}

/** dB to power ratio. */
export function dbToPower(db: number): number {
  return 10 ** (db / 10)
}

export function clamp(value: number, low: number, high: number): number {
  return value < low ? low : value > high ? high : value
}
