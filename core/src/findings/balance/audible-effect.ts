import { type EqBand, magnitudeDb } from '../../filters'
import {
  bandEdgeHz,
  type Calibration,
  ERB_STEP,
  earTransferDb,
  excitation,
  FILTER_COUNT,
  FILTER_HZ,
  specificLoudness,
  totalSone,
} from '../../hearing'
import { LEVEL_BANDS } from '../level-bands'

/** What a change of tone does to what is heard of a sound by itself. */
export interface AudibleEffect {
  /** Specific loudness that comes or goes, summed over the ERB scale, in sone. */
  readonly sone: number
  /** The same as a share of the sound's loudness before. */
  readonly share: number
}

/**
 * How much of what is heard of a sound changes with its spectrum. Louder in one place and softer in another do not
 * cancel out.
 * @param before, after levels of sixth-octave bands in dB re a mean square of 1 (`LEVEL_BANDS`): their long-term means, taken as steady.
 */
export function audibleEffect(
  before: ArrayLike<number>,
  after: ArrayLike<number>,
  calibration: Calibration,
): AudibleEffect {
  const [was, is] = [before, after].map((levels) => specificOf(levels, calibration))
  let changed = 0
  for (let i = 0; i < FILTER_COUNT; i++) changed += Math.abs(is[i] - was[i])
  const sone = totalSone(was)
  changed *= ERB_STEP
  return { sone: changed, share: sone > 0 ? changed / sone : 0 }
}

function specificOf(levels: ArrayLike<number>, { lufs, dbSpl }: Calibration): Float64Array {
  const intensity = Float64Array.from(FILTER_HZ, (hz, i) => {
    const [fromHz, toHz] = [bandEdgeHz(i), bandEdgeHz(i + 1)]
    let power = 0
    for (const [b, band] of LEVEL_BANDS.entries()) {
      // Power lies evenly within a band.
      const inside = Math.min(toHz, band.toHz) - Math.max(fromHz, band.fromHz)
      if (inside > 0) power += (10 ** (levels[b] / 10) * inside) / (band.toHz - band.fromHz)
    }
    return power * 10 ** ((dbSpl - lufs + earTransferDb(hz)) / 10)
  })
  const pattern = excitation(intensity, new Float64Array(FILTER_COUNT))
  return specificLoudness(pattern, new Float64Array(FILTER_COUNT))
}

/**
 * What bands do to what is heard of a sound by itself.
 * @param levels of its sixth-octave bands, in dB: with the bands in, or without them.
 */
export function effectOfBands(
  bands: readonly EqBand[],
  levels: ArrayLike<number>,
  has: 'with' | 'without',
  sampleRateHz: number,
  calibration: Calibration,
): AudibleEffect {
  const centres = LEVEL_BANDS.map((b) => Math.min(b.hz, 0.49 * sampleRateHz))
  const change = magnitudeDb(bands, centres, sampleRateHz)
  const sign = has === 'with' ? -1 : 1
  const other = Float64Array.from(levels, (db, i) => db + sign * change[i])
  return has === 'with'
    ? audibleEffect(other, levels, calibration)
    : audibleEffect(levels, other, calibration)
}
