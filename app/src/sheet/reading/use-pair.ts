import { makeBands } from '@sober-prism/core/spectrum'
import { type PairSum, predictPairSum, respondChain } from '@sober-prism/core/treatments'
import { errorSentence, type PairReading } from '@sober-prism/engine'
import { useDeferredValue, useEffect, useMemo, useState } from 'react'
import { useDesk } from '../../shell/desk-context'
import { interfaceActions } from '../../store/interface-slice'
import { useSession } from '../../store/selectors'
import { useSettledSession } from '../../store/settled'
import { useAppDispatch } from '../../store/store'

export const PAIR_BANDS = makeBands('sixth')

/** The sum of two tracks: as it is predicted from what is set now, and as it was measured last. */
export interface PairLevels extends PairSum {
  readonly measured: Float64Array
}

/** @returns null until it is measured, or where there is nothing to add up. */
export function usePair(node: string, other: string | null): PairLevels | null {
  const desk = useDesk()
  const dispatch = useAppDispatch()
  const settled = useSettledSession()
  const [reading, setReading] = useState<{ of: string; read: PairReading } | null>(null)
  const of = `${node} ${other}`
  const [first, second] = [node, other].map((id) => settled.tracks.find((t) => t.id === id))
  const { passage } = settled
  // biome-ignore lint/correctness/useExhaustiveDependencies: what the desk holds of both tracks changes what is measured.
  useEffect(() => {
    if (other === null) return
    const controller = new AbortController()
    desk.ask
      .pair([node, other], controller.signal)
      .then((read) => {
        if (read && !controller.signal.aborted) setReading({ of, read })
      })
      .catch((error) => {
        if (controller.signal.aborted) return
        dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning'))
      })
    return () => controller.abort()
  }, [
    desk,
    dispatch,
    node,
    other,
    of,
    first?.chain,
    first?.trimDb,
    first?.faderDb,
    first?.offsetFrames,
    second?.chain,
    second?.trimDb,
    second?.faderDb,
    second?.offsetFrames,
    passage,
  ])
  const { tracks, sampleRateHz } = useDeferredValue(useSession())
  const read = reading?.of === of ? reading.read : null
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
