import type { Session } from '@sober-prism/core/session'
import { useCallback, useRef, useSyncExternalStore } from 'react'
import { useStore } from 'react-redux'
import { openSession } from './selectors'
import type { RootState } from './store'

const SETTLE_MS = 150

/**
 * The open session for what need not follow every step of a drag: a change after a pause is seen at once, those that
 * follow it when they have settled.
 */
export function useSettledSession(): Session {
  const store = useStore<RootState>()
  const seen = useRef<Session | null>(null)
  seen.current ??= openSession(store.getState())
  const subscribe = useCallback(
    (onChange: () => void) => {
      let timer: ReturnType<typeof setTimeout> | undefined
      const see = () => {
        const { present } = store.getState().session
        if (!present || present === seen.current) return
        seen.current = present
        onChange()
      }
      const unsubscribe = store.subscribe(() => {
        if (store.getState().session.present === seen.current) return
        if (timer === undefined) see()
        clearTimeout(timer)
        timer = setTimeout(() => {
          timer = undefined
          see()
        }, SETTLE_MS)
      })
      see()
      return () => {
        clearTimeout(timer)
        unsubscribe()
      }
    },
    [store],
  )
  return useSyncExternalStore(subscribe, () => seen.current as Session)
}
