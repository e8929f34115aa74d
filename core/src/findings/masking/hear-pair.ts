import type { Clip } from '../../audio'
import {
  activityOf,
  DEFAULT_CALIBRATION,
  heardMoments,
  type MaskingSums,
  maskTracks,
  midAndSide,
  planMoments,
  trackMasking,
} from '../../hearing'

/** How a key is heard beside what yields to it. */
export interface PairHearing {
  /** Share of the key's loudness that survives, 0 to 1. */
  readonly keyHeard: number
  /** The yielding sound's own loudness. */
  readonly yieldingSone: number
}

/** So many moments tell a pair. */
const MOMENTS = 400

/** Listens to a key (track 0) and what yields to it (track 1) over loudspeakers, at the usual level. */
export function pairSums(key: Clip, yielding: Clip): MaskingSums {
  const rate = key.sampleRateHz
  const longest = Math.max(key.frames, yielding.frames)
  // The same moments whatever is done to the yielding sound: those at which the key sounds.
  const moments = planMoments(rate, longest, [activityOf(key.channels)], MOMENTS)
  const tracks = [key, yielding].map(({ channels }) => ({
    heard: heardMoments(midAndSide(channels), rate, moments),
    gainDb: 0,
  }))
  return maskTracks(tracks, {
    calibration: DEFAULT_CALIBRATION,
    mode: 'stereo',
    listening: 'speakers',
  })
}

export function hearingOf(sums: MaskingSums): PairHearing {
  return {
    keyHeard: trackMasking(sums, 0).audibleShare,
    yieldingSone: trackMasking(sums, 1).aloneSone,
  }
}
