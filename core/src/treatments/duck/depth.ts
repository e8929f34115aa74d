import { type FilterConstants, inNoise, inQuiet } from '../../hearing'

/** A key that keeps so much of its loudness in quiet is clear: nothing more is taken for it. */
const CLEAR_SHARE = 0.75
/** What the yielding sound loses counts by this against what the key wins. */
const PRICE = 0.8
/** Depths that are tried, in steps up to the ceiling. */
const STEPS = 6

/**
 * How far a sound gives way in one auditory filter, in dB: to the depth at which the key has won most loudness for
 * what the sound has lost (Moore, Glasberg and Baer 1997), and no further than the key is clear.
 * @param key excitation of the key, @param own that of the sound that yields: both as powers, 1 at 0 dB SPL.
 */
export function depthFor(key: number, own: number, mostDb: number, ear: FilterConstants): number {
  if (key < ear.quiet || own <= 0 || mostDb <= 0) return 0
  const clear = CLEAR_SHARE * inQuiet(key, ear)
  const before = inNoise(key, own, ear)
  if (before >= clear) return 0
  const alone = inQuiet(own, ear)
  let best = 0
  let bestWorth = 0
  let last = before
  for (let n = 1; n <= STEPS; n++) {
    const db = (mostDb * n) / STEPS
    const left = own * 10 ** (-db / 10)
    const now = inNoise(key, left, ear)
    if (now >= clear) {
      // Between two steps it becomes clear.
      const share = now > last ? (clear - last) / (now - last) : 1
      const at = (mostDb * (n - 1 + share)) / STEPS
      const lost = alone - inQuiet(own * 10 ** (-at / 10), ear)
      return clear - before - PRICE * lost > bestWorth ? at : best
    }
    const worth = now - before - PRICE * (alone - inQuiet(left, ear))
    if (worth > bestWorth) {
      bestWorth = worth
      best = db
    }
    last = now
  }
  return best
}
