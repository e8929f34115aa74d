import type { Clip } from '@sober-prism/core/audio'
import type { Finding } from '@sober-prism/core/findings'
import { longTermPower } from '@sober-prism/core/spectrum'
import { coveredShare, excessDb, LEAST_EXCESS_DB, THIRDS } from './fault-measures'
import type { RealSession } from './session'

/** Of a lead's cells in the range of a fault, what beds take that were raised by 8 to 11 dB: the median by the judging players. */
const AS_PLANTED = 0.4

/**
 * Whether what is told of a clean session is a fault that came about by itself: a masker that takes as much of the
 * cells of a lead as half of the planted ones do, or low mids of which other mixes have less. Other kinds have no other
 * measure, and count as none.
 * @param usual what other mixes have: the long-term power of each of {@link THIRDS}.
 */
export function isFaultByMeasure(
  { kind, tracks, hz, fromHz, toHz }: Pick<Finding, 'kind' | 'tracks' | 'hz' | 'fromHz' | 'toHz'>,
  session: Pick<RealSession, 'tracks'>,
  usual: readonly Float64Array[],
): boolean {
  if (kind === 'pile-up') {
    const powers = session.tracks.map(({ clip, gainDb }) =>
      longTermPower(clip, THIRDS).map((v) => v * 10 ** (gainDb / 10)),
    )
    const mix = powers[0].map((_, b) => powers.reduce((sum, of) => sum + of[b], 0))
    return excessDb(mix, usual, hz) >= LEAST_EXCESS_DB
  }
  if (kind !== 'masking') return false
  const [masker, target] = tracks.map((id) => {
    const { clip, gainDb, isLead } = session.tracks[Number(id)]
    return { sound: meanOfSides(clip), gainDb, isLead }
  })
  return target.isLead && coveredShare(target, masker, [fromHz, toHz]) >= AS_PLANTED
}

function meanOfSides({ channels }: Clip): Float32Array {
  return channels[0].map((_, i) => channels.reduce((sum, c) => sum + c[i], 0) / channels.length)
}
