import { errorSentence } from '@sober-prism/engine'
import { useEffect, useState } from 'react'
import { useDesk } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { useSettledSession } from '../store/settled'
import { useAppDispatch } from '../store/store'
import type { SpectrogramSide } from './clean-slice'
import { EDGES_HZ, ROWS } from './draw-spectrogram'

/** A picture of a track over the passage, as recorded or behind its chain; null until it is there. */
export function useSpectrogram(
  node: string,
  side: SpectrogramSide,
  size: number,
): Float32Array | null {
  const desk = useDesk()
  const dispatch = useAppDispatch()
  const session = useSettledSession()
  const [levels, setLevels] = useState<{ of: string; levels: Float32Array } | null>(null)
  const track = session.tracks.find((t) => t.id === node)
  const { passage } = session
  const chain = side === 'treated' ? track?.chain : null
  const [hash, offset] = [track?.audio.hash, track?.offsetFrames]
  // biome-ignore lint/correctness/useExhaustiveDependencies: chain, audio, place and passage change the picture, though the desk holds them.
  useEffect(() => {
    if (side === 'off') return
    const controller = new AbortController()
    const view = { isTreated: side === 'treated', size, rows: ROWS, edgesHz: EDGES_HZ }
    desk
      .spectrogram(node, view, controller.signal)
      .then((made) => {
        if (!controller.signal.aborted && made) setLevels({ of: node, levels: made })
      })
      .catch((error) => {
        if (controller.signal.aborted) return
        dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning'))
      })
    return () => controller.abort()
  }, [desk, dispatch, node, side, size, chain, hash, offset, passage])
  return side !== 'off' && levels?.of === node ? levels.levels : null
}
