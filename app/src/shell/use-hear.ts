import { errorSentence, type Rendition } from '@sober-prism/engine'
import { useCallback } from 'react'
import { interfaceActions } from '../store/interface-slice'
import { useAppDispatch } from '../store/store'
import { useDesk } from './desk-context'

/** Hears another rendition, or what is rendered where it is given none; says why where it cannot. */
export function useHear(): (rendition: Rendition | null) => void {
  const desk = useDesk()
  const dispatch = useAppDispatch()
  return useCallback(
    (rendition) => {
      if (!rendition) return desk.stopHearing()
      desk
        .hear(rendition)
        .catch((error) => dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning')))
    },
    [desk, dispatch],
  )
}
