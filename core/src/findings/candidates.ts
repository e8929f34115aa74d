import type { EqBand } from '../filters'
import type { FollowBand } from '../treatments'
import { tamingBand } from './harshness'
import { roundedBell } from './masking-places'
import { RING_LEVELS, type Ring } from './rings'
import type { SourceReading } from './source-reading'

/** Something in a sound that may not belong to its source, with the bands that would take it out. */
export interface Candidate {
  readonly kind: 'resonance' | 'rumble' | 'harshness' | 'hum'
  readonly hz: number
  readonly q: number
  /**
   * In dB, by kind. Resonance: height over what lies beside it. Rumble: level against the whole sound. Harshness: how far
   * its moments stand over the usual balance. Hum: height of the clearest harmonic in soft moments.
   */
  readonly db: number
  /** How likely it is not the source's own, 0 to 1; null where that is not known. */
  readonly likelihood: number | null
  /** Whether it is told as a finding; else it is only worth a pencil mark, to be listened to. */
  readonly isFinding: boolean
  readonly bands: readonly EqBand[]
  /** What answers it better than bands at rest: one that hears the sound and is drawn when it must; null where none does. */
  readonly drawn: FollowBand | null
  /** Why it is taken for something else than a note of the music. */
  readonly why: string
}

const RING_CUT_SHARE = 0.75
const MOST_RING_CUT_DB = 12
/** What is not this likely is cut no deeper at first than a hunt by ear cuts. */
const LIKELY = 0.75
const FIRST_CUT_DB = 6

/** The bell that answers a ring: three quarters of its height, no deeper than common practice goes without thought. */
export function ringCut(ring: Ring): EqBand {
  const deepest = ring.likelihood >= LIKELY ? MOST_RING_CUT_DB : FIRST_CUT_DB
  const db = -Math.min(deepest, Math.round(2 * RING_CUT_SHARE * ring.db) / 2)
  return roundedBell(ring.hz, db, Math.max(6, Math.min(24, ring.q)))
}

/** Everything that might be taken out of a sound by itself: what is told as a finding first, then the likelier. */
export function cleaningCandidates({
  rings,
  rumble,
  harshness,
  hum,
}: Pick<SourceReading, 'rings' | 'rumble' | 'harshness' | 'hum'>): Candidate[] {
  const out: Candidate[] = []
  if (hum) {
    out.push({
      kind: 'hum',
      hz: hum.hz,
      q: hum.cuts[0].q,
      db: hum.harmonics.reduce((most, h) => Math.max(most, h.heightDb), 0),
      likelihood: null,
      isFinding: true,
      bands: hum.cuts,
      drawn: null,
      why: `it lies on multiples of the ${hum.mainsHz} Hz mains and is the same in pauses and in loud moments`,
    })
  }
  if (rumble) {
    out.push({
      kind: 'rumble',
      hz: rumble.cut.hz,
      q: rumble.cut.q,
      db: rumble.levelDb,
      likelihood: null,
      isFinding: true,
      bands: [rumble.cut],
      drawn: null,
      why: `it lies under the lowest note, ${rumble.lowestHz.toFixed(0)} Hz, and does not rise and fall with the source`,
    })
  }
  for (const ring of rings) {
    out.push({
      kind: 'resonance',
      hz: ring.hz,
      q: ring.q,
      db: ring.db,
      likelihood: ring.likelihood,
      isFinding: ring.score >= RING_LEVELS.finding,
      bands: [ringCut(ring)],
      drawn: null,
      why: 'it stands out whatever is played, in loud moments and soft ones, and without the octave and fifth a note brings',
    })
  }
  if (harshness) {
    out.push({
      kind: 'harshness',
      hz: harshness.hz,
      q: harshness.cut.q,
      db: harshness.excessDb,
      likelihood: null,
      isFinding: true,
      bands: [harshness.cut],
      drawn: tamingBand(harshness),
      why: 'it comes in moments in which the body of the sound is softer than usual: sibilants or scraping, not a pitch',
    })
  }
  const rank = (c: Candidate) => (c.isFinding ? 2 : 0) + (c.likelihood ?? 1)
  return out.sort((a, b) => rank(b) - rank(a))
}
