import { Signal } from '@sober-prism/engine'
import { type RefObject, useEffect, useRef } from 'react'
import { useDesk } from '../shell/desk-context'

/** Where it plays, in frames, picture by picture: for drawings, which look at it without a render. */
export function usePlace(): RefObject<Signal<number>> {
  const desk = useDesk()
  const place = useRef(new Signal(0))
  useEffect(() => {
    let timer = 0
    const follow = () => {
      place.current.set(desk.player.positionFrames)
      timer = requestAnimationFrame(follow)
    }
    follow()
    return () => cancelAnimationFrame(timer)
  }, [desk])
  return place
}
