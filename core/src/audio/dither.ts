import type { Random } from './random'

/**
 * Quantises to whole steps with triangular dither of two steps peak to peak, which makes the first
 * two moments of the error independent of the signal (Lipshitz, Wannamaker and Vanderkooy 1992).
 * @param sample ±1 full scale.
 * @param bits word length, at most 24; full scale is 2^(bits-1) steps.
 * @returns the step number, held within the range of the word.
 */
export function ditherToInteger(sample: number, bits: number, random: Random): number {
  const full = 1 << (bits - 1)
  const step = Math.floor(sample * full + random() - random() + 0.5)
  return step < -full ? -full : step > full - 1 ? full - 1 : step
}
