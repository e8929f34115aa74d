import type { SourceReading } from '@sober-prism/core/findings'
import { errorSentence } from '@sober-prism/engine'
import { useEffect, useState } from 'react'
import { useAnalysis, useDesk } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { useSettledSession } from '../store/settled'
import { useAppDispatch } from '../store/store'

/** What was measured of a node's own sound: of tracks always, of groups and the mix while it is wanted. */
export function useSource(node: string, wanted: boolean): SourceReading | null {
  const desk = useDesk()
  const dispatch = useAppDispatch()
  const { tracks } = useAnalysis('tracks')
  const session = useSettledSession()
  const [made, setMade] = useState<{ of: string; reading: SourceReading } | null>(null)
  const isTrack = session.tracks.some((t) => t.id === node)
  // biome-ignore lint/correctness/useExhaustiveDependencies: the session changes what is measured, though the desk holds it.
  useEffect(() => {
    if (isTrack || !wanted) return
    const controller = new AbortController()
    desk.ask
      .source(node, controller.signal)
      .then((reading) => {
        if (!controller.signal.aborted && reading) setMade({ of: node, reading })
      })
      .catch((error) => {
        if (controller.signal.aborted) return
        dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning'))
      })
    return () => controller.abort()
  }, [desk, dispatch, node, isTrack, wanted, session])
  if (isTrack) return tracks.get(node)?.reading ?? null
  return made?.of === node ? made.reading : null
}
