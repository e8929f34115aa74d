import { createSlice, type PayloadAction, type WithSlice } from '@reduxjs/toolkit'
import type { ProbeSettings } from '@sober-prism/engine'
import { rootReducer } from '../store/store'

/** What the sheet spans: so many dB up and down, what its marks need, or down to silence. */
export type SheetSpan = 'auto' | 3 | 6 | 12 | 24 | 'deep'
/** What live spectra are tilted by, in dB per octave. */
type Tilt = 0 | 3 | 4.5

interface SheetState {
  readonly span: SheetSpan
  /** Whether what goes into the chain and comes out of it is drawn live. */
  readonly live: boolean
  readonly probe: ProbeSettings
  readonly tilt: Tilt
  /** The largest since it was switched on stays. */
  readonly hold: boolean
  readonly frozen: boolean
  /** Other tracks, groups and references that stand behind, by id. */
  readonly ghosts: readonly string[]
}

const initialState: SheetState = {
  span: 'auto',
  live: true,
  probe: { resolution: 'medium', speed: 'medium', show: 'average' },
  tilt: 0,
  hold: false,
  frozen: false,
  ghosts: [],
}

const sheetSlice = createSlice({
  name: 'sheet',
  initialState,
  reducers: {
    viewChanged(state, { payload }: PayloadAction<Partial<Omit<SheetState, 'probe' | 'ghosts'>>>) {
      Object.assign(state, payload)
    },
    probeChanged(state, { payload }: PayloadAction<Partial<ProbeSettings>>) {
      Object.assign(state.probe, payload)
    },
    ghostSwitched(state, { payload }: PayloadAction<string>) {
      state.ghosts = state.ghosts.includes(payload)
        ? state.ghosts.filter((id) => id !== payload)
        : [...state.ghosts, payload]
    },
  },
  selectors: { selectSheet: (state) => state },
})

declare module '../store/store' {
  interface StepSlices extends WithSlice<typeof sheetSlice> {}
}

const injected = sheetSlice.injectInto(rootReducer)
export const sheetActions = sheetSlice.actions
export const { selectSheet } = injected.selectors
