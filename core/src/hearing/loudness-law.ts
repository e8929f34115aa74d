import { interpolateLog } from './ear'

/** Excitation at absolute threshold, `[hz, dB]`; constant from 500 Hz up (ANSI S3.4-2007, table 4; memory). */
const THRESHOLD_DB: readonly (readonly [number, number])[] = [
  [50, 28.18],
  [63, 23.9],
  [80, 19.2],
  [100, 15.68],
  [125, 12.67],
  [160, 10.09],
  [200, 8.08],
  [250, 6.3],
  [315, 5.3],
  [400, 4.5],
  [500, 3.73],
]

/** Exponent of the compression for the low-level gain G in dB (ANSI S3.4-2007, table 5; memory). */
const ALPHA: readonly (readonly [number, number])[] = [
  [-25, 0.26692],
  [-20, 0.25016],
  [-15, 0.23679],
  [-10, 0.22228],
  [-5, 0.21055],
  [0, 0.2],
]

/**
 * Signal-to-noise ratio at the output of the auditory filter that a tone needs at threshold, in dB,
 * -3 dB from 1 kHz up (Moore, Glasberg and Baer 1997, figure 9; read off, memory).
 */
const THRESHOLD_IN_NOISE_DB: readonly (readonly [number, number])[] = [
  [50, 13.3],
  [63, 10.9],
  [80, 8.4],
  [100, 6.4],
  [125, 4.6],
  [160, 3],
  [200, 1.7],
  [250, 0.8],
  [315, 0.1],
  [400, -0.8],
  [500, -1.4],
  [630, -2],
  [800, -2.5],
  [1000, -3],
]

/** Excitation from which loudness grows with its power of 0.2 alone: 100 dB (ANSI S3.4-2007, eq. 9; memory). */
const VERY_LOUD = 1e10
const A_MIDDLE = 4.72096

/** What one auditory filter needs to turn excitation into loudness. */
export interface FilterConstants {
  /** Excitation at threshold in quiet, linear. */
  readonly quiet: number
  /** Low-level gain of the cochlear amplifier relative to 500 Hz and above, linear. */
  readonly gain: number
  readonly alpha: number
  readonly a: number
  readonly aToAlpha: number
  readonly quietLoudness: number
  /** Ratio of signal to noise at threshold in loud noise, linear. */
  readonly k: number
}

const quietMiddle = 10 ** (3.73 / 10)

/** The constants of the auditory filter at `hz`. */
export function filterConstants(hz: number): FilterConstants {
  const quiet = 10 ** (interpolateLog(THRESHOLD_DB, hz) / 10)
  const gain = quietMiddle / quiet
  const alpha = interpolateLinear(ALPHA, 10 * Math.log10(gain))
  const a = solveA(alpha)
  const aToAlpha = a ** alpha
  return {
    quiet,
    gain,
    alpha,
    a,
    aToAlpha,
    quietLoudness: (quiet * gain + a) ** alpha - aToAlpha,
    k: 10 ** (interpolateLog(THRESHOLD_IN_NOISE_DB, hz) / 10),
  }
}

/** A is such that the specific loudness at threshold is the same in every filter. */
function solveA(alpha: number): number {
  const wanted = (quietMiddle + A_MIDDLE) ** 0.2 - A_MIDDLE ** 0.2
  let low = 1
  let high = 40
  for (let i = 0; i < 60; i++) {
    const middle = (low + high) / 2
    if ((quietMiddle + middle) ** alpha - middle ** alpha > wanted) low = middle
    else high = middle
  }
  return (low + high) / 2
}

function interpolateLinear(table: readonly (readonly [number, number])[], x: number): number {
  if (x <= table[0][0]) return table[0][1]
  for (let i = 1; i < table.length; i++) {
    if (x <= table[i][0]) {
      const share = (x - table[i - 1][0]) / (table[i][0] - table[i - 1][0])
      return table[i - 1][1] + share * (table[i][1] - table[i - 1][1])
    }
  }
  return table[table.length - 1][1]
}

/** Specific loudness in quiet without the scale factor: Moore, Glasberg and Baer 1997, eq. 6 to 8. */
export function inQuiet(e: number, f: FilterConstants): number {
  if (e <= 0) return 0
  if (e > VERY_LOUD) return veryLoud(e, f)
  const core = (e * f.gain + f.a) ** f.alpha - f.aToAlpha
  return e >= f.quiet ? core : core * ((2 * e) / (e + f.quiet)) ** 1.5
}

/** ANSI S3.4-2007 gives (E / 1.0707)^0.2 where gain is full; here joined without a step in every filter. */
function veryLoud(e: number, f: FilterConstants): number {
  const edge = (VERY_LOUD * f.gain + f.a) ** f.alpha - f.aToAlpha
  return edge * (e / VERY_LOUD) ** 0.2
}

/**
 * What is taken off K beside a tonal masker, in dB. Noise beside a complex tone reaches a loudness at a ratio 12 to 16 dB
 * lower than the tone beside the noise (Gockel, Moore and Patterson 2003; memory). Of that the lower end is taken, which is
 * also what coders for audio take for any target (18 against 6 dB: ISO/IEC 11172-3, psychoacoustic model 2; memory).
 */
export const TONAL_MASKER_DB = 12

/** Steps of a twentieth of a dB, which are far finer than K is known. */
const K_STEPS = 20 * TONAL_MASKER_DB
const K_FACTORS = Float64Array.from(
  { length: K_STEPS + 1 },
  (_, i) => 10 ** ((-TONAL_MASKER_DB * i) / K_STEPS / 10),
)

/** Factor on K beside a masker that is tonal to the part `tonality`; outside of 0 to 1 as at these. */
export function kFactor(tonality: number): number {
  return K_FACTORS[Math.max(0, Math.min(K_STEPS, Math.round(K_STEPS * tonality)))]
}

/**
 * Specific partial loudness of a signal beside a noise, without the scale factor: Moore, Glasberg and
 * Baer 1997, eq. 17 to 20.
 * @param factor on K, see {@link kFactor}.
 */
export function inNoise(signal: number, noise: number, f: FilterConstants, factor = 1): number {
  if (signal <= 0) return 0
  if (noise <= 0) return inQuiet(signal, f)
  const k = f.k * factor
  const threshold = k * noise + f.quiet
  const total = inQuietAbove(signal + noise, f)
  const noiseAtThreshold = inQuietAbove(noise * (1 + k) + f.quiet, f)
  if (signal >= threshold) {
    const taken = (noiseAtThreshold - f.quietLoudness) * (threshold / signal) ** 0.3
    return Math.max(0, total - taken)
  }
  const noiseAlone = inQuietAbove(noise, f)
  const share = ((2 * signal) / (signal + threshold)) ** 1.5
  const rise = noiseAtThreshold - noiseAlone
  return rise > 0 ? (share * f.quietLoudness * (total - noiseAlone)) / rise : 0
}

/** The compressive law without the part below threshold, as the partial-loudness equations use it. */
export function inQuietAbove(e: number, f: FilterConstants): number {
  return e > VERY_LOUD ? veryLoud(e, f) : (e * f.gain + f.a) ** f.alpha - f.aToAlpha
}
