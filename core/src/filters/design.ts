import type { EqBand } from '../session'
import { analogueSections } from './analogue'
import type { Biquad } from './biquad'
import { matchSection } from './matched'

/**
 * The sections that realise a band at a sample rate, in series. Their magnitude follows the analogue
 * prototype (Audio EQ Cookbook, W3C Note 2021; Butterworth cuts) up to 20 kHz or 0.4755 of the rate; see
 * docs/filters.md for how closely. The number of sections depends on type and slope only.
 */
export function designBand(band: EqBand, rateHz: number): Biquad[] {
  if (band.type === 'all-pass') return [allPass(band, rateHz)]
  const hz = Math.min(band.hz, MOST_OF_RATE * rateHz)
  const held = hz === band.hz ? band : { ...band, hz }
  const sections = analogueSections(held)
  return sections.flatMap((section) => matchSection(section, rateHz, 1 / sections.length))
}

/** Corners above this share of the rate are held there. */
const MOST_OF_RATE = 0.9

/**
 * All-pass of first (slope 6) or second order by the bilinear transform: exact in magnitude, and in phase
 * at its frequency, where it has turned by 90 or 180 degrees.
 */
function allPass({ hz, q, slopeDbPerOct }: EqBand, rateHz: number): Biquad {
  const w = Math.tan((Math.PI * Math.min(hz, 0.49 * rateHz)) / rateHz)
  if (slopeDbPerOct === FIRST_ORDER_SLOPE) {
    const a1 = (w - 1) / (w + 1)
    return { b0: a1, b1: 1, b2: 0, a1, a2: 0 }
  }
  const a0 = 1 + w / q + w * w
  const a1 = (2 * (w * w - 1)) / a0
  const a2 = (1 - w / q + w * w) / a0
  return { b0: a2, b1: a1, b2: 1, a1, a2 }
}

/** The slope that names a first-order all-pass. */
export const FIRST_ORDER_SLOPE = 6
