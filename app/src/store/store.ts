import { combineSlices, configureStore, createListenerMiddleware } from '@reduxjs/toolkit'
import type { Edit } from '@sober-prism/core/session'
import { useMemo } from 'react'
import { useDispatch, useSelector } from 'react-redux'
import type { EditMeta } from './history'
import { interfaceReducer } from './interface-slice'
import {
  browserStorage,
  initialPreferences,
  keepPreferences,
  loadPreferences,
  type Preferences,
} from './preferences'
import { sessionActions, sessionReducer } from './session-slice'

/** Slices of single steps, which come with their pages. */
// biome-ignore lint/suspicious/noEmptyInterface: each step's slice adds itself.
export interface StepSlices {}

export const rootReducer = combineSlices({
  session: sessionReducer,
  interface: interfaceReducer,
}).withLazyLoadedSlices<StepSlices>()

/** The document may be large: in development its checks may take this long before they are worth a word. */
const CHECKS_MS = 200

/** @param storage where preferences are kept. */
export function makeStore(storage = browserStorage) {
  const listeners = createListenerMiddleware()
  const initial = rootReducer(undefined, { type: 'began' })
  const made = configureStore({
    reducer: rootReducer,
    preloadedState: {
      ...initial,
      interface: { ...initial.interface, ...loadPreferences(storage) },
    },
    middleware: (defaults) =>
      defaults({
        serializableCheck: { warnAfter: CHECKS_MS },
        immutableCheck: { warnAfter: CHECKS_MS },
      }).prepend(listeners.middleware),
  })
  const names = Object.keys(initialPreferences) as (keyof Preferences)[]
  listeners.startListening.withTypes<RootState, AppDispatch>()({
    predicate: (_, now, before) => names.some((n) => now.interface[n] !== before.interface[n]),
    effect: (_, { getState }) => keepPreferences(storage, getState().interface),
  })
  return made
}

export type RootState = ReturnType<typeof rootReducer>
export type AppStore = ReturnType<typeof makeStore>
export type AppDispatch = AppStore['dispatch']

export const store = makeStore()
export const useAppSelector = useSelector.withTypes<RootState>()
export const useAppDispatch = useDispatch.withTypes<AppDispatch>()

/** Makes edits of the session, all of them as one step of undo. */
export function useEdit(): (edits: readonly Edit[], meta?: EditMeta) => void {
  const dispatch = useAppDispatch()
  return useMemo(
    () => (edits: readonly Edit[], meta?: EditMeta) =>
      void dispatch(sessionActions.edited(edits, meta)),
    [dispatch],
  )
}
