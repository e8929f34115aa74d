import { ERB_STEP, FILTER_COUNT, FILTER_HZ, type HearingBands } from '../../hearing'

/** The sound falls when it loses at least this much from one frame to the next, in dB. */
const FALL_DB = 2
/** Bands beside the ring: from one to three ERB away. */
const NEAR = Math.round(1 / ERB_STEP)
const FAR = Math.round(3 / ERB_STEP)
const LEAST_FALLS = 8

/**
 * How much slower a place dies away than what lies beside it: the ratio of their mean falls over all
 * moments in which the whole sound falls; 1 for no difference, null where it falls too seldom to tell.
 */
export function decayRatio(bands: HearingBands, hz: number): number | null {
  const centre = FILTER_HZ.findIndex((f) => f >= hz)
  if (centre < FAR || centre + FAR >= FILTER_COUNT) return null
  const level = (frame: number, b: number) => {
    const at = frame * FILTER_COUNT + b
    return 10 * Math.log10(bands.mid[at] + bands.side[at] + 1e-14)
  }
  const beside = (frame: number) => {
    let sum = 0
    for (let away = NEAR; away <= FAR; away++) {
      sum += level(frame, centre - away) + level(frame, centre + away)
    }
    return sum / (2 * (FAR - NEAR + 1))
  }
  let ring = 0
  let rest = 0
  let falls = 0
  for (let frame = 1; frame < bands.frames; frame++) {
    const fall = beside(frame - 1) - beside(frame)
    if (fall < FALL_DB) continue
    falls++
    rest += fall
    ring += level(frame - 1, centre) - level(frame, centre)
  }
  return falls >= LEAST_FALLS ? rest / Math.max(0.1 * rest, ring) : null
}
