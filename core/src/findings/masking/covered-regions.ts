import { bandEdgeHz, FILTER_COUNT, type TrackMasking } from '../../hearing'

/** A stretch of frequency in which a track is covered by others. */
export interface CoveredRegion {
  readonly fromHz: number
  readonly toHz: number
  /** Share of the track's loudness there that is lost, 0 to 1. */
  readonly lostShare: number
  /** Where what covers it stands: in the middle or at the sides. */
  readonly where: 'middle' | 'sides'
}

/** Loss from which a stretch counts as covered. */
const COVERED_SHARE = 0.75
/** Filters with less than this share of the track's strongest filter do not matter to it. */
const MATTERS_SHARE = 0.25
/** Shorter stretches (in quarter ERBs) are not shown. */
const SHORTEST = 3

/** The stretches in which a track loses more than three quarters of a loudness that matters to it. */
export function coveredRegions(masking: TrackMasking): CoveredRegion[] {
  const strongest = masking.alone.reduce((a, b) => Math.max(a, b), 0)
  const covered = (b: number) =>
    masking.alone[b] > MATTERS_SHARE * strongest &&
    masking.lost[b] > COVERED_SHARE * masking.alone[b]
  const regions: CoveredRegion[] = []
  for (let from = 0; from < FILTER_COUNT; from++) {
    if (!covered(from)) continue
    let to = from
    while (to < FILTER_COUNT && covered(to)) to++
    if (to - from >= SHORTEST) regions.push(region(masking, from, to))
    from = to
  }
  return regions
}

function region(masking: TrackMasking, from: number, to: number): CoveredRegion {
  const sum = (values: Float64Array) => {
    let total = 0
    for (let b = from; b < to; b++) total += values[b]
    return total
  }
  const lost = sum(masking.lost)
  return {
    fromHz: bandEdgeHz(from),
    toHz: bandEdgeHz(to),
    lostShare: lost / sum(masking.alone),
    where: sum(masking.lostToSides) > 0.5 * lost ? 'sides' : 'middle',
  }
}
