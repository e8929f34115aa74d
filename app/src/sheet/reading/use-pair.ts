import { makeBands } from '@sober-prism/core/spectrum'
import { type PairSum, predictPairSum, respondChain } from '@sober-prism/core/treatments'
import { useDeferredValue, useMemo } from 'react'
import { useAsked } from '../../shell/use-asked'
import { useSession } from '../../store/selectors'
import { useSettledSession } from '../../store/settled'

export const PAIR_BANDS = makeBands('sixth')

/** The sum of two tracks: as it is predicted from what is set now, and as it was measured last. */
export interface PairLevels extends PairSum {
  readonly measured: Float64Array
}

/** @returns null until it is measured, or where there is nothing to add up. */
export function usePair(node: string, other: string | null): PairLevels | null {
  const settled = useSettledSession()
  const depends = [node, other].flatMap((id) => {
    const track = settled.tracks.find((t) => t.id === id)
    return [track?.chain, track?.trimDb, track?.faderDb, track?.offsetFrames]
  })
  const { answer: read } = useAsked('pair', other === null ? null : { tracks: [node, other] }, {
    subject: `${node} ${other}`,
    depends: [...depends, settled.passage],
  })
  const { tracks, sampleRateHz } = useDeferredValue(useSession())
  return useMemo(() => {
    if (!read) return null
    const [a, b] = [node, other].map((id) => {
      const track = tracks.find((t) => t.id === id)
      if (!track) return null
      const { treatments, output } = track.chain
      const gain = 10 ** ((track.trimDb + track.faderDb + output.gainDb) / 20)
      return {
        response: respondChain(treatments, sampleRateHz, 'mid'),
        gain: output.polarity === 'inverted' ? -gain : gain,
      }
    })
    return a && b ? { ...predictPairSum(read.cross, a, b, PAIR_BANDS), measured: read.sum } : null
  }, [read, tracks, sampleRateHz, node, other])
}
