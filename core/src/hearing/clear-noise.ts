import { type FilterConstants, filterConstants, inNoise, inQuiet } from './loudness-law'

const known = new Map<number, FilterConstants>()
const LOWEST_DB = -30
const STEPS = 24

/**
 * The most excitation by noise, in dB, beside which a sound of a given excitation keeps a share of the specific loudness
 * that it has in quiet; -30 where not even silence would do. By the formulas of Moore, Glasberg and Baer 1997.
 * @param hz of the auditory filter. @param signalDb excitation of the sound. @param share 0 to 1.
 */
export function clearNoiseLevel(hz: number, signalDb: number, share: number): number {
  let constants = known.get(hz)
  if (!constants) {
    constants = filterConstants(hz)
    known.set(hz, constants)
  }
  const signal = 10 ** (signalDb / 10)
  const wanted = share * inQuiet(signal, constants)
  if (!(wanted > 0)) return LOWEST_DB
  let [low, high] = [LOWEST_DB, signalDb + 20]
  for (let i = 0; i < STEPS; i++) {
    const middle = (low + high) / 2
    if (inNoise(signal, 10 ** (middle / 10), constants) >= wanted) low = middle
    else high = middle
  }
  return low
}
