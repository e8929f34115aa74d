import type { Clip } from '../../audio'
import {
  activityOf,
  DEFAULT_CALIBRATION,
  type HearingSettings,
  heardMoments,
  type MaskingSums,
  maskPatterns,
  midAndSide,
  planMoments,
  trackMasking,
  trackPatterns,
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

/** Over loudspeakers, at the usual level. */
const SETTINGS: HearingSettings = {
  calibration: DEFAULT_CALIBRATION,
  mode: 'stereo',
  listening: 'speakers',
}

/** Listens to a key (track 0) and what yields to it (track 1). */
export function pairSums(key: Clip, yielding: Clip): MaskingSums {
  return listenBeside(key, yielding.frames)(yielding)
}

/** {@link pairSums} of a key, which is taken in once, beside each sound that is given. @param frames of the longest of them. */
export function listenBeside(key: Clip, frames: number): (yielding: Clip) => MaskingSums {
  const rate = key.sampleRateHz
  const longest = Math.max(key.frames, frames)
  // The same moments whatever is done to the yielding sound: those at which the key sounds.
  const moments = planMoments(rate, longest, [activityOf(key.channels)], MOMENTS)
  const patternsOf = ({ channels }: Clip) => {
    const heard = heardMoments(midAndSide(channels), rate, moments)
    return trackPatterns({ heard, gainDb: 0 }, SETTINGS)
  }
  const ofKey = patternsOf(key)
  return (yielding) => maskPatterns([ofKey, patternsOf(yielding)])
}

export function hearingOf(sums: MaskingSums): PairHearing {
  return {
    keyHeard: trackMasking(sums, 0).audibleShare,
    yieldingSone: trackMasking(sums, 1).aloneSone,
  }
}
