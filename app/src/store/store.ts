import { configureStore } from '@reduxjs/toolkit'
import type { Edit } from '@sober-prism/core/session'
import { useMemo } from 'react'
import { useDispatch, useSelector } from 'react-redux'
import type { EditMeta } from './history'
import { interfaceReducer } from './interface-slice'
import { sessionActions, sessionReducer } from './session-slice'

export const store = configureStore({
  reducer: { session: sessionReducer, interface: interfaceReducer },
  // The document may be large and changes while dragging; it is plain by its schema.
  middleware: (defaults) => defaults({ serializableCheck: false, immutableCheck: false }),
})

export type Root = ReturnType<typeof store.getState>
export type Dispatch = typeof store.dispatch
export const useRoot = useSelector.withTypes<Root>()
export const useSend = useDispatch.withTypes<Dispatch>()

/** Makes edits of the session, all of them as one step of undo. */
export function useEdit(): (edits: readonly Edit[], meta?: EditMeta) => void {
  const send = useSend()
  return useMemo(
    () => (edits: readonly Edit[], meta?: EditMeta) =>
      void send(sessionActions.edited(edits, meta)),
    [send],
  )
}
