import { inNoiseAt, inQuietAt, maskedThreshold } from '../../hearing'

/** A key that keeps so much of its loudness in quiet is clear: nothing more is taken for it. */
const CLEAR_SHARE = 0.75
/** What the yielding sound loses counts by this against what the key wins. */
const PRICE = 0.8
/** Depths that are tried, in steps up to the ceiling. */
const STEPS = 6
/** Gains of power at {@link STEPS} up to a ceiling, which hardly ever changes. */
let ceilingDb = Number.NaN
const gains = new Float64Array(STEPS + 1)

function gainsUpTo(mostDb: number): Float64Array {
  if (mostDb !== ceilingDb) {
    ceilingDb = mostDb
    for (let n = 0; n <= STEPS; n++) gains[n] = 10 ** ((-mostDb * n) / STEPS / 10)
  }
  return gains
}

/**
 * How far a sound gives way in one auditory filter, in dB: to the depth at which the key has won most loudness for
 * what the sound has lost (Moore, Glasberg and Baer 1997), and no further than the key is clear.
 * @param key excitation of the key, @param own that of the sound that yields: both as powers, 1 at 0 dB SPL.
 * @param filter number of the auditory filter.
 */
export function depthFor(key: number, own: number, mostDb: number, filter: number): number {
  if (key < maskedThreshold(0, filter) || own <= 0 || mostDb <= 0) return 0
  const clear = CLEAR_SHARE * inQuietAt(filter, key)
  const before = inNoiseAt(filter, key, own)
  if (before >= clear) return 0
  const steps = gainsUpTo(mostDb)
  const alone = inQuietAt(filter, own)
  let best = 0
  let bestWorth = 0
  let last = before
  for (let n = 1; n <= STEPS; n++) {
    const left = own * steps[n]
    const now = inNoiseAt(filter, key, left)
    if (now >= clear) {
      // Between two steps it becomes clear.
      const share = now > last ? (clear - last) / (now - last) : 1
      const at = (mostDb * (n - 1 + share)) / STEPS
      const lost = alone - inQuietAt(filter, own * 10 ** (-at / 10))
      return clear - before - PRICE * lost > bestWorth ? at : best
    }
    const worth = now - before - PRICE * (alone - inQuietAt(filter, left))
    if (worth > bestWorth) {
      bestWorth = worth
      best = (mostDb * n) / STEPS
    }
    last = now
  }
  return best
}
