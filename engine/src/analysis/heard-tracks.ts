import { coveredRegions } from '@sober-prism/core/findings'
import { type MaskingSums, pairMasking, trackMasking } from '@sober-prism/core/hearing'
import type { Track } from '@sober-prism/core/session'
import type { Covering, HeardTrack } from './analysis'

/** What masking sums say of each track, by id. @param tracks in the order of the sums. */
export function heardTracks(
  sums: MaskingSums,
  tracks: readonly Track[],
  understood: (id: string) => number | null,
): ReadonlyMap<string, HeardTrack> {
  return new Map(
    tracks.map((track, index) => {
      const masking = trackMasking(sums, index)
      return [
        track.id,
        {
          share: masking.audibleShare,
          aloneSone: masking.aloneSone,
          inMixSone: masking.inMixSone,
          hidden: masking.hidden,
          crowded: masking.crowded,
          clear: masking.clear,
          understood: understood(track.id),
          covered: track.mute ? [] : coveredRegions(masking),
        },
      ]
    }),
  )
}

/** Masking, for all pairs of tracks that sound. */
export function coverings(sums: MaskingSums, tracks: readonly Track[]): Covering[] {
  const covering: Covering[] = []
  for (const [t, target] of tracks.entries()) {
    const { aloneSone } = trackMasking(sums, t)
    for (const [m, masker] of tracks.entries()) {
      if (m === t || target.mute || masker.mute) continue
      const { lostSone } = pairMasking(sums, t, m)
      const share = aloneSone > 0 ? lostSone / aloneSone : 0
      covering.push({ targetId: target.id, maskerId: masker.id, lostSone, share })
    }
  }
  return covering
}
