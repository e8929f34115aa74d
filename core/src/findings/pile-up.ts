import { FILTER_COUNT, FILTER_HZ, type MaskingTrack } from '../hearing'
import type { BalanceRegion } from './balance'
import { sumOf } from './masking-places'

/** A place where the mix is too strong because several tracks meet there. */
export interface PileUp {
  /** The tracks that bring most, strongest first. */
  readonly tracks: readonly number[]
  /** Share of the power there that each brings, leads left out. */
  readonly shares: readonly number[]
  /** Loudness they lose there in the crowd, in sone. */
  readonly lostSone: number
}

const LEAST_TRACKS = 3
const MOST_TRACKS = 4
/** A track takes part with this share of the power. */
const LEAST_SHARE = 0.04
/** ... and this loudness lost in the crowd, in sone. */
const LEAST_LOST = 0.03
/** Pile-ups are a matter of the low and middle range. */
const FROM_HZ = 100
const TO_HZ = 1200

/**
 * Whether an excess of the mix is a pile-up: at least three tracks that may yield bring it, and lose
 * loudness there in a crowd in which none is clear.
 */
export function findPileUp(
  region: BalanceRegion,
  tracks: readonly MaskingTrack[],
  piled: readonly Float64Array[],
  candidates: readonly number[],
): PileUp | null {
  if (region.deviationDb <= 0 || region.hz < FROM_HZ || region.hz > TO_HZ) return null
  const from = FILTER_HZ.findIndex((hz) => hz >= region.fromHz)
  const to = FILTER_HZ.findIndex((hz) => hz > region.toHz)
  const powers = candidates.map((t) => powerIn(tracks[t], from, to))
  const whole = powers.reduce((a, b) => a + b, 0)
  const parts = candidates
    .map((track, i) => ({
      track,
      share: powers[i] / Math.max(1e-20, whole),
      lost: sumOf(piled[track], from, to),
    }))
    .filter((p) => p.share >= LEAST_SHARE && p.lost >= LEAST_LOST)
    .sort((a, b) => b.share - a.share)
    .slice(0, MOST_TRACKS)
  if (parts.length < LEAST_TRACKS) return null
  return {
    tracks: parts.map((p) => p.track),
    shares: parts.map((p) => p.share),
    lostSone: parts.reduce((sum, p) => sum + p.lost, 0),
  }
}

function powerIn({ heard, gainDb }: MaskingTrack, from: number, to: number): number {
  const { mid, side, moments } = heard
  let sum = 0
  moments.seconds.forEach((seconds, m) => {
    for (let i = m * FILTER_COUNT + from; i < m * FILTER_COUNT + to; i++) {
      sum += (mid[i] + (side ? side[i] : 0)) * seconds
    }
  })
  return sum * 10 ** (gainDb / 10)
}
