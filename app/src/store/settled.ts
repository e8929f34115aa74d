import type { Session } from '@sober-prism/core/session'
import { useCallback, useRef, useSyncExternalStore } from 'react'
import { useStore } from 'react-redux'
import { pressed } from './pressed'
import { openSession } from './selectors'
import type { RootState } from './store'

const SETTLE_MS = 150
/** While a pointer is held down a drag may only be resting, or the machine be slow. */
const HELD_MS = 1000

/**
 * The open session for what need not follow every step of a drag: a change after a pause is seen at once, those that
 * follow it when they have settled; while a pointer is held down only when it rests or is let go.
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
        if (timer === undefined && !pressed.value) see()
        wait()
      })
      const wait = () => {
        clearTimeout(timer)
        timer = setTimeout(
          () => {
            timer = undefined
            see()
          },
          pressed.value ? HELD_MS : SETTLE_MS,
        )
      }
      const unwatch = pressed.watch(() => timer !== undefined && wait())
      see()
      return () => {
        clearTimeout(timer)
        unwatch()
        unsubscribe()
      }
    },
    [store],
  )
  return useSyncExternalStore(subscribe, () => seen.current as Session)
}
