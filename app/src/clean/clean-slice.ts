import { createSlice, type PayloadAction, type WithSlice } from '@reduxjs/toolkit'
import { rootReducer } from '../store/store'

interface CleanState {
  /** Whether a boost follows the pointer over the sheet. */
  readonly hunting: boolean
  /** Whether it goes from high to low by itself. */
  readonly sweeping: boolean
  /** How narrow it is. */
  readonly q: number
}

const initialState: CleanState = { hunting: false, sweeping: false, q: 14 }

/** Narrowest and widest boost of a hunt, as Q. */
export const HUNT_Q = [2, 40] as const

const cleanSlice = createSlice({
  name: 'clean',
  initialState,
  reducers: {
    huntSwitched(state, { payload }: PayloadAction<boolean>) {
      state.hunting = payload
      state.sweeping = false
    },
    sweepSwitched(state, { payload }: PayloadAction<boolean>) {
      state.sweeping = payload
      if (payload) state.hunting = true
    },
    widthChanged(state, { payload }: PayloadAction<number>) {
      state.q = Math.max(HUNT_Q[0], Math.min(HUNT_Q[1], payload))
    },
  },
  selectors: { selectClean: (state) => state },
})

declare module '../store/store' {
  interface StepSlices extends WithSlice<typeof cleanSlice> {}
}

const injected = cleanSlice.injectInto(rootReducer)
export const cleanActions = cleanSlice.actions
export const { selectClean } = injected.selectors
