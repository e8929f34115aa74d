import { configureStore } from '@reduxjs/toolkit'
import { useDispatch, useSelector } from 'react-redux'
import { interfaceReducer } from './interface-slice'
import { sessionReducer } from './session-slice'

export const store = configureStore({
  reducer: { session: sessionReducer, interface: interfaceReducer },
  // The document may be large and changes while dragging; it is plain by its schema.
  middleware: (defaults) => defaults({ serializableCheck: false, immutableCheck: false }),
})

export type Root = ReturnType<typeof store.getState>
export type Dispatch = typeof store.dispatch
export const useRoot = useSelector.withTypes<Root>()
export const useSend = useDispatch.withTypes<Dispatch>()
