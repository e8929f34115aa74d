import { type EqBand, magnitudeDb } from '../filters'
import { FILTER_COUNT, FILTER_HZ, type MaskingSums, pairMasking, trackMasking } from '../hearing'
import type { StageName } from '../treatments'
import type { Finding } from './finding'
import { roundedBell } from './masking-places'
import type { SurveyInput } from './survey-input'

/** A band that a plan may put on a track. */
export interface CandidateMove {
  /** The track, by its place among all. */
  readonly owner: number
  readonly stage: StageName
  readonly band: EqBand
}

/** Widths and depths that are tried for each track that covers a lead; the first depth says about what the others are worth. */
const QS = [0.4, 0.5, 0.7, 1, 1.4] as const
const DEPTHS_DB = [-3, -1.5, -4.5, -6] as const
/** Boosts of a lead itself, where all others together take most from it. */
const BOOSTS_DB = [2, 1, 1.5, 2.5, 3] as const
/** Places at which each width is tried. */
const MOST_PLACES = 3
/** Moves on one track, and places that are tried, stand at least so far apart. */
const APART_OCTAVES = 0.5
const PLACES_APART = 1
/** No cut, and no curve of several, is deeper than this, in dB. */
const DEEPEST_DB = 6
/** No boost, and no curve of several, is higher. */
const HIGHEST_DB = 3
/** Beyond this depth neither is wider than two octaves; for a bell that is Q 0.67. */
const WIDE_CUT_DB = 3
const WIDEST_OCTAVES = 2
const NARROWEST_WIDE_Q = 0.67
/** Tracks that take less than this share of a lead's loss are not asked to yield. */
const LEAST_SHARE = 0.04

/** A move of a finding, with its key; or one that the search made itself. */
export interface PlannedMove {
  readonly move: CandidateMove
  readonly findingKey: string | null
  /** The same at another depth, which says about what this one is worth; null where none does. */
  readonly like: PlannedMove | null
}

/** All moves that a plan may be made of. */
export function candidateMoves(input: SurveyInput, findings: readonly Finding[]): PlannedMove[] {
  return [...fromFindings(input, findings), ...fromSearch(input)]
}

const TWELFTHS_HZ = Float64Array.from({ length: 121 }, (_, i) => 20 * 2 ** (i / 12))

/**
 * Whether a band would be too much for a track on top of those before it: no cut is both deep and wide, nor is what
 * several make together; and none stands at the place of another.
 */
export function isTooMuch(before: readonly EqBand[], band: EqBand, sampleRateHz: number): boolean {
  if (band.db < -WIDE_CUT_DB && band.q < NARROWEST_WIDE_Q) return true
  if (before.some((b) => Math.abs(Math.log2(b.hz / band.hz)) < APART_OCTAVES)) return true
  const curve = magnitudeDb([...before, band], TWELFTHS_HZ, sampleRateHz)
  const deep = curve.filter((db) => db < -WIDE_CUT_DB).length
  const isBeyond = curve.some((db) => db < -DEEPEST_DB - 0.1 || db > HIGHEST_DB + 0.1)
  return isBeyond || deep > 12 * WIDEST_OCTAVES + 1
}

function fromFindings({ tracks }: SurveyInput, findings: readonly Finding[]): PlannedMove[] {
  return findings.flatMap((finding) =>
    finding.moves.flatMap((move) => {
      if (move.kind !== 'add-band' || move.chainBand.band.type !== 'bell') return []
      const owner = tracks.findIndex((t) => t.id === move.node)
      if (owner < 0 || tracks[owner].isLead) return []
      const candidate = { owner, stage: move.stage, band: move.chainBand.band }
      return [{ move: candidate, findingKey: finding.key, like: null }]
    }),
  )
}

/** Wide cuts on tracks that cover leads, where they cover most, and wide boosts of leads where all do. */
function fromSearch({ tracks, sums }: SurveyInput): PlannedMove[] {
  const leads = tracks.flatMap((t, i) => (t.isLead ? [i] : []))
  return tracks.flatMap((track, owner) => {
    const lost = track.isLead ? trackMasking(sums, owner).lost : lostTo(sums, leads, owner)
    if (!lost) return []
    const [first, ...others] = track.isLead ? BOOSTS_DB : DEPTHS_DB
    return QS.flatMap((q) =>
      placesOf(lost, q).flatMap((hz) => {
        const made = (db: number, like: PlannedMove | null): PlannedMove => ({
          move: { owner, stage: 'fit', band: roundedBell(hz, db, q) },
          findingKey: null,
          like,
        })
        const like = made(first, null)
        return [like, ...others.map((db) => made(db, like))]
      }),
    )
  })
}

/** What leads lose to a masker, per filter; null when it is too little to ask. */
function lostTo(sums: MaskingSums, leads: readonly number[], masker: number): Float64Array | null {
  const lost = new Float64Array(FILTER_COUNT)
  let toAll = 0
  let toThis = 0
  for (const lead of leads) {
    for (let m = 0; m < sums.tracks; m++) {
      if (m === lead) continue
      const pair = pairMasking(sums, lead, m)
      toAll += pair.lostSone
      if (m !== masker) continue
      toThis += pair.lostSone
      for (let b = 0; b < FILTER_COUNT; b++) lost[b] += pair.lost[b]
    }
  }
  return toThis >= LEAST_SHARE * toAll ? lost : null
}

/** Where a bell of a width takes in most of a loss, and where most of what is lost away from there. */
function placesOf(lost: Float64Array, q: number): number[] {
  const left = lost.slice()
  const places: number[] = []
  while (places.length < MOST_PLACES && left.some((v) => v > 0)) {
    const place = bestPlace(left, q)
    places.push(place)
    FILTER_HZ.forEach((hz, b) => {
      if (Math.abs(Math.log2(hz / place)) < PLACES_APART) left[b] = 0
    })
  }
  return places
}

/** Where a bell of a width takes in most of a loss: Gaussian weight over octaves. */
function bestPlace(lost: Float64Array, q: number): number {
  const octaves = 0.6 / q
  let best = 0
  let most = -1
  for (let c = 0; c < FILTER_COUNT; c++) {
    let sum = 0
    for (let b = 0; b < FILTER_COUNT; b++) {
      const away = Math.log2(FILTER_HZ[b] / FILTER_HZ[c]) / octaves
      if (Math.abs(away) < 3) sum += lost[b] * Math.exp(-0.5 * away * away)
    }
    if (sum > most) {
      most = sum
      best = c
    }
  }
  return FILTER_HZ[best]
}
