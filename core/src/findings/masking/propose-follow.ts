import type { Clip } from '../../audio'
import { bandEdgeHz, FILTER_COUNT } from '../../hearing'
import { powerSpectrum, sumIntoBands } from '../../spectrum'
import { type FollowBand, newFollowBand } from '../../treatments'

export interface FollowProposal {
  /** So many bands at most. */
  readonly bands: number
  /** The most that is done, in dB; below zero. */
  readonly rangeDb: number
}

/** Bands that win less than this part of what is lost are left out. */
const LEAST_PART = 0.06
/** A band reaches as far as this part of the loss at its middle. */
const EDGE_SHARE = 0.35
const [LEAST_Q, MOST_Q] = [0.7, 6]
/** Thresholds lie so far under the key's usual level in the band. */
export const UNDER_USUAL_DB = -8
/** In the lows gains may not follow single periods. */
const SLOW_HZ = 250

/**
 * Where a key is lost, as bands that follow it: the place of the greatest loss first, each as wide as the loss is.
 * @param lost loudness that the key loses to what is to yield, per auditory filter.
 */
export function proposeFollow(
  lost: ArrayLike<number>,
  { bands: most, rangeDb }: FollowProposal,
): FollowBand[] {
  const left = Float64Array.from(lost)
  const total = left.reduce((a, b) => a + b, 0)
  const made: FollowBand[] = []
  while (made.length < most && total > 0) {
    let peak = 0
    for (let b = 1; b < FILTER_COUNT; b++) if (left[b] > left[peak]) peak = b
    const edge = EDGE_SHARE * left[peak]
    let [from, to] = [peak, peak]
    while (from > 0 && left[from - 1] > edge) from--
    while (to < FILTER_COUNT - 1 && left[to + 1] > edge) to++
    let sum = 0
    for (let b = from; b <= to; b++) sum += left[b]
    for (let b = from; b <= to; b++) left[b] = 0
    if (sum < LEAST_PART * total) {
      if (left.every((v) => v < edge)) break
      continue
    }
    const [low, high] = [bandEdgeHz(from), bandEdgeHz(to + 1)]
    const hz = Number(Math.sqrt(low * high).toPrecision(3))
    const q = Number(Math.max(LEAST_Q, Math.min(MOST_Q, hz / (high - low))).toPrecision(2))
    made.push(followBand(`band-${made.length + 1}`, { hz, q, rangeDb }))
  }
  return made.sort((a, b) => a.hz - b.hz)
}

/** A band that gives way while the key is about as loud there as it usually is. */
export function followBand(id: string, at: Pick<FollowBand, 'hz' | 'q' | 'rangeDb'>): FollowBand {
  const isLow = at.hz < SLOW_HZ
  return newFollowBand(id, {
    ...at,
    threshold: { against: 'relative', db: UNDER_USUAL_DB },
    attackMs: isLow ? 25 : 12,
    releaseMs: isLow ? 220 : 140,
  })
}

const SIZE = 2048
/** Moments this far under the loudest do not count. */
const PAUSE_DB = 25

/** The level that a key has in a band where it sounds, in dB: what an absolute threshold goes by. */
export function usualLevel({ channels, sampleRateHz }: Clip, hz: number, q: number): number {
  const mono =
    channels.length === 1 ? channels[0] : channels[0].map((v, i) => (v + channels[1][i]) / 2)
  const measure = powerSpectrum({ size: SIZE, window: 'hann' })
  const half = 1 / (2 * q)
  const band = {
    hz,
    fromHz: hz * (Math.sqrt(1 + half * half) - half),
    toHz: hz * (Math.sqrt(1 + half * half) + half),
  }
  const levels: number[] = []
  for (let at = 0; at + SIZE <= mono.length; at += SIZE) {
    const [power] = sumIntoBands(measure(mono, at), sampleRateHz / SIZE, [band])
    levels.push(10 * Math.log10(power + 1e-12))
  }
  const loudest = levels.reduce((a, v) => Math.max(a, v), -120)
  const sounding = levels.filter((v) => v > loudest - PAUSE_DB)
  return sounding.reduce((a, v) => a + v, 0) / Math.max(1, sounding.length)
}
