import { analogueSections } from './analogue'
import type { Biquad } from './biquad'
import type { EqBand } from './eq-band'
import { matchSection } from './matched'
import { QUICK_STRIDE, quickDesign } from './quick-design'

/** Corners above this share of the rate are held there. */
const MOST_OF_RATE = 0.9

/**
 * The sections that realise a band at a sample rate, in series. Their magnitude follows the analogue
 * prototype (Audio EQ Cookbook, W3C Note 2021; Butterworth cuts) up to 20 kHz or 0.4755 of the rate; see
 * docs/filters.md for how closely. The number of sections depends on type and slope only.
 */
export function designBand(band: EqBand, rateHz: number): readonly Biquad[] {
  const kept = designs.get(band)
  if (kept?.rateHz === rateHz) return kept.sections
  const sections = design(band, rateHz)
  designs.set(band, { rateHz, sections })
  return sections
}

/** The last design of each band: one curve is drawn of many bands while one of them is moved. */
const designs = new WeakMap<EqBand, { rateHz: number; sections: readonly Biquad[] }>()

function design(band: EqBand, rateHz: number): readonly Biquad[] {
  if (band.type === 'all-pass') return [allPass(band, rateHz)]
  const hz = Math.min(band.hz, MOST_OF_RATE * rateHz)
  const held = hz === band.hz ? band : { ...band, hz }
  const sections = analogueSections(held)
  return sections.flatMap((section) => matchSection(section, rateHz, 1 / sections.length))
}

/** An all-pass has no magnitude to match: at rest it is as it is while it moves. */
function allPass(band: EqBand, rateHz: number): Biquad {
  const out = new Float64Array(QUICK_STRIDE)
  quickDesign(band, rateHz, out)
  const [b0, b1, b2, a1, a2] = out
  return { b0, b1, b2, a1, a2 }
}
