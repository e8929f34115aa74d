import type { EqBand } from '../../filters'
import type { FollowBand, Treatment } from '../../treatments'
import { roundedBell } from '../masking/masking-places'
import type { Ring } from '../rings'
import { remainingDb } from '../source/ring-meter'
import type { SourceReading } from '../source/source-reading'
import { tamingBand } from './harshness'

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
  /** What a cut that is made already leaves of it; null where none is. */
  readonly remains: Remainder | null
}

/** What is left of a resonance behind cuts that were made. */
export interface Remainder {
  /** Its height before any cut, and what is left of that, in dB. */
  readonly ofDb: number
  readonly leftDb: number
  /** The bell that would take it out, in place of what was cut so far, and what that would leave. */
  readonly cut: EqBand
  readonly wouldLeaveDb: number
}

/** From this likelihood on a resonance is cut by a press; what is less likely is listened to first. */
export const CUT_LIKELIHOOD = 0.6
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

/** The bell that takes a resonance out as far as a cut goes: as high, as narrow, and just there. */
export function wholeRingCut({ hz, q, db }: Pick<Ring, 'hz' | 'q' | 'db'>): EqBand {
  return roundedBell(hz, -Math.min(MOST_RING_CUT_DB, db), q)
}

/** What is wider than this is for tone. */
const NARROW_Q = 4

/** The narrow bell among some treatments that cuts nearest to a resonance, and reaches it; null for none. */
export function cutNear(
  treatments: readonly Treatment[],
  { hz, q }: Pick<Ring, 'hz' | 'q'>,
): { readonly treatment: string; readonly band: string } | null {
  let nearest: { treatment: string; band: string } | null = null
  let least = Number.POSITIVE_INFINITY
  for (const { id, kind, on, params } of treatments) {
    if (kind !== 'equaliser' || !on) continue
    for (const { id: mark, on: isOn, band } of params.bands) {
      if (!isOn || band.type !== 'bell' || band.db >= 0) continue
      const octaves = Math.abs(Math.log2(band.hz / hz))
      const reach = 1 / band.q + 1 / q
      if (band.q < NARROW_Q || octaves > reach || octaves >= least) continue
      least = octaves
      nearest = { treatment: id, band: mark }
    }
  }
  return nearest
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
      remains: null,
      why: `it is at multiples of the ${hum.mainsHz} Hz mains and constant through pauses and loud moments`,
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
      remains: null,
      why: `it is below the lowest note, ${rumble.lowestHz.toFixed(0)} Hz, and does not follow the source’s level`,
    })
  }
  out.push(...rings.map(ringCandidate))
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
      remains: null,
      why: 'it comes in moments when the body of the sound is softer than usual: sibilants or scraping, not a pitch',
    })
  }
  return ranked(out)
}

function ringCandidate(ring: Ring): Candidate {
  return {
    kind: 'resonance',
    hz: ring.hz,
    q: ring.q,
    db: ring.db,
    likelihood: ring.likelihood,
    isFinding: ring.likelihood >= CUT_LIKELIHOOD,
    bands: [ringCut(ring)],
    drawn: null,
    remains: null,
    why: 'it stays whatever is played, loud or soft, without the octave and fifth that a note brings',
  }
}

function ranked(list: Candidate[]): Candidate[] {
  const rank = (c: Candidate) => (c.isFinding ? 2 : 0) + (c.likelihood ?? 1)
  return list.sort((a, b) => rank(b) - rank(a))
}

type Readings = Parameters<typeof cleaningCandidates>[0]

/**
 * What may be taken out of a sound as its chain leaves it. A resonance that a cut has lowered stays in the list, with
 * what is left of it, until that is less than {@link GONE_DB}: the cut may stand beside it.
 * @param treated what was measured behind the chain; its rings are those of the recording. @param chainDb the chain's
 * response, in dB.
 */
export function candidatesBehind(
  treated: Readings,
  chainDb: (hz: Float64Array) => Float64Array,
): Candidate[] {
  const left = treated.rings.map((ring) => remainingDb(ring, chainDb))
  const untouched = treated.rings.filter((_, i) => left[i] === null)
  const remaining = treated.rings.flatMap((ring, i): Candidate[] => {
    const leftDb = left[i]
    if (leftDb === null || leftDb < GONE_DB) return []
    const full = wholeRingCut(ring)
    const db = -Math.min(MOST_RING_CUT_DB, Math.round(10 * leftDb) / 10)
    return [
      {
        ...ringCandidate(ring),
        db: leftDb,
        bands: [{ ...full, db }],
        remains: { ofDb: ring.db, leftDb, cut: full, wouldLeaveDb: ring.db + full.db },
      },
    ]
  })
  return ranked([...cleaningCandidates({ ...treated, rings: untouched }), ...remaining])
}

/** What is less is not told any more. */
const GONE_DB = 2
