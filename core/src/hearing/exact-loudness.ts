import { erbBandwidthHz, erbNumberToHz, hzToErbNumber } from '../spectrum'
import { earTransferDb } from './ear'
import { lowerSlope, roex, symmetricSlope } from './excitation'
import { type FilterConstants, filterConstants, inNoise, inQuiet } from './loudness-law'

/** One sinusoidal component of a stationary sound in a frontal free field. */
export interface SoundComponent {
  readonly hz: number
  readonly dbSpl: number
}

/** Filters stand every 0.1 ERB number from 1.75 to 39, as in ANSI S3.4-2007, 3.4. */
const STEP = 0.1
const FIRST_ERB = 1.75
const COUNT = 373
const CENTRES = Float64Array.from({ length: COUNT }, (_, i) => erbNumberToHz(FIRST_ERB + i * STEP))

let known: { constants: FilterConstants[]; scale: number } | null = null

function model(): { constants: FilterConstants[]; scale: number } {
  if (!known) {
    const constants = Array.from(CENTRES, filterConstants)
    known = { constants, scale: 1 }
    // 1 kHz at 40 dB SPL in a free field is one sone by definition.
    known = { constants, scale: 1 / exactLoudness([{ hz: 1000, dbSpl: 40 }]) }
  }
  return known
}

/**
 * Loudness in sone, both ears, of a stationary sound, component by component: Moore, Glasberg and Baer
 * 1997, as standardised in ANSI S3.4-2007. Slow; what sessions use is held against it.
 */
export function exactLoudness(sound: readonly SoundComponent[]): number {
  const { constants, scale } = model()
  const pattern = exactExcitation(sound)
  let sum = 0
  for (let i = 0; i < COUNT; i++) sum += inQuiet(pattern[i], constants[i])
  return scale * sum * STEP
}

/** Partial loudness in sone of a stationary sound beside a stationary noise: the same paper, eq. 17 to 20. */
export function exactPartialLoudness(
  sound: readonly SoundComponent[],
  noise: readonly SoundComponent[],
): number {
  const { constants, scale } = model()
  const signal = exactExcitation(sound)
  const masker = exactExcitation(noise)
  let sum = 0
  for (let i = 0; i < COUNT; i++) sum += inNoise(signal[i], masker[i], constants[i])
  return scale * sum * STEP
}

/** Excitation of each filter; each component meets slopes set by the level in one ERB around it. */
function exactExcitation(sound: readonly SoundComponent[]): Float64Array {
  const sorted = [...sound].sort((a, b) => a.hz - b.hz)
  const powers = sorted.map(({ hz, dbSpl }) => 10 ** ((dbSpl + earTransferDb(hz)) / 10))
  const out = new Float64Array(COUNT)
  let low = 0
  let high = 0
  let inside = 0
  sorted.forEach(({ hz }, c) => {
    const half = erbBandwidthHz(hz) / 2
    while (high < sorted.length && sorted[high].hz <= hz + half) inside += powers[high++]
    while (sorted[low].hz < hz - half) inside -= powers[low++]
    const levelDb = 10 * Math.log10(Math.max(inside, powers[c]))
    const near = Math.round((hzToErbNumber(hz) - FIRST_ERB) / STEP)
    for (let i = Math.max(0, near - 80); i < COUNT; i++) {
      const centre = CENTRES[i]
      const slope = hz > centre ? symmetricSlope(centre) : lowerSlope(centre, levelDb)
      const share = roex(slope, Math.abs(hz - centre) / centre)
      if (share < 1e-10 && centre > hz) break
      out[i] += powers[c] * share
    }
  })
  return out
}
