import {
  FILTER_COUNT,
  FILTER_HZ,
  type MaskingSums,
  type MaskingTrack,
  pairMasking,
} from '../../hearing'
import type { BalanceRegion } from '../balance/balance'
import { sumOf } from './masking-places'

/** A place where the mix is too strong because several tracks meet there. */
export interface PileUp {
  /** The tracks that bring most, strongest first. */
  readonly tracks: readonly number[]
  /** Share of the power there that each brings, leads left out. */
  readonly shares: readonly number[]
  /** Loudness they take from each other there, in sone. */
  readonly lostSone: number
}

const LEAST_TRACKS = 3
/** Where one track, or the leads, bring this part of the power, it is theirs and no crowd's. */
const MOST_OF_ONE = 0.6
const MOST_OF_LEADS = 0.78
const MOST_TRACKS = 4
/** A track takes part with this share of the power. */
const LEAST_SHARE = 0.04
/** ... and this loudness lost to the others of them, in sone. */
const LEAST_LOST = 0.03
/** Pile-ups are a matter of the low and middle range. */
const FROM_HZ = 100
const TO_HZ = 1200

/**
 * Whether an excess of the mix is a pile-up: at least three tracks that may yield, of as many sources, bring it, and take
 * loudness from each other there.
 * @param areOneSource whether two tracks carry one source: two microphones on a drum are no crowd.
 */
export function findPileUp(
  region: BalanceRegion,
  tracks: readonly MaskingTrack[],
  sums: MaskingSums,
  candidates: readonly number[],
  areOneSource: (one: number, other: number) => boolean,
): PileUp | null {
  if (region.deviationDb <= 0 || region.hz < FROM_HZ || region.hz > TO_HZ) return null
  const from = FILTER_HZ.findIndex((hz) => hz >= region.fromHz)
  const to = FILTER_HZ.findIndex((hz) => hz > region.toHz)
  const powers = candidates.map((t) => powerBetween(tracks[t], region.fromHz, region.toHz))
  const whole = powers.reduce((a, b) => a + b, 0)
  const everyone = tracks.map((track) => powerBetween(track, region.fromHz, region.toHz))
  const all = everyone.reduce((a, b) => a + b, 0)
  if (powers.some((power) => power > MOST_OF_ONE * all)) return null
  if (all - whole > MOST_OF_LEADS * all) return null
  const strong = candidates
    .map((track, i) => ({ track, share: powers[i] / Math.max(1e-20, whole) }))
    .filter((p) => p.share >= LEAST_SHARE)
  const lostTo = (target: number, masker: number) =>
    target === masker ? 0 : sumOf(pairMasking(sums, target, masker).lost, from, to)
  const parts = strong
    .map(({ track, share }) => ({
      track,
      share,
      lost: strong.reduce((sum, other) => sum + lostTo(track, other.track), 0),
    }))
    .filter((p) => p.lost >= LEAST_LOST)
    .sort((a, b) => b.share - a.share)
    .slice(0, MOST_TRACKS)
  const sources = parts.filter(
    ({ track }, i) => !parts.slice(0, i).some((louder) => areOneSource(track, louder.track)),
  )
  if (sources.length < LEAST_TRACKS) return null
  return {
    tracks: parts.map((p) => p.track),
    shares: parts.map((p) => p.share),
    lostSone: parts.reduce((sum, p) => sum + p.lost, 0),
  }
}

/** Power of a track at its gain between two frequencies, summed over its moments. */
export function powerBetween(
  { heard, gainDb }: MaskingTrack,
  fromHz: number,
  toHz: number,
): number {
  const from = FILTER_HZ.filter((hz) => hz < fromHz).length
  const to = FILTER_HZ.filter((hz) => hz <= toHz).length
  const { mid, side, moments } = heard
  let sum = 0
  moments.seconds.forEach((seconds, m) => {
    for (let i = m * FILTER_COUNT + from; i < m * FILTER_COUNT + to; i++) {
      sum += (mid[i] + (side ? side[i] : 0)) * seconds
    }
  })
  return sum * 10 ** (gainDb / 10)
}
