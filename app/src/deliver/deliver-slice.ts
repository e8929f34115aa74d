import { createSlice, type PayloadAction, type WithSlice } from '@reduxjs/toolkit'
import type { RenderChoice } from '@sober-prism/engine'
import { rootReducer } from '../store/store'

const initialState: RenderChoice = { mix: true, tracks: false, groups: false, bits: 24 }

const deliverSlice = createSlice({
  name: 'deliver',
  initialState,
  reducers: {
    chosen(state, { payload }: PayloadAction<Partial<RenderChoice>>) {
      Object.assign(state, payload)
    },
  },
  selectors: { selectChoice: (state) => state },
})

declare module '../store/store' {
  interface StepSlices extends WithSlice<typeof deliverSlice> {}
}

const injected = deliverSlice.injectInto(rootReducer)
export const deliverActions = deliverSlice.actions
export const { selectChoice } = injected.selectors
