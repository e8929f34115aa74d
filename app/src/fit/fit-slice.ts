import { createSlice, type PayloadAction, type WithSlice } from '@reduxjs/toolkit'
import { rootReducer } from '../store/store'

/** A round through the tracks, one after another, what loses most first. */
interface Round {
  readonly order: readonly string[]
  /** The place in the order that is at work; the order's length at its end. */
  readonly at: number
  /** How much of each track was heard when the round began, 0 to 1. */
  readonly before: Readonly<Record<string, number>>
  /** What stood behind the sheets before the round. */
  readonly ghosts: readonly string[]
}

interface FitState {
  readonly round: Round | null
}

const initialState: FitState = { round: null }

const fitSlice = createSlice({
  name: 'fit',
  initialState,
  reducers: {
    roundBegun(state, { payload }: PayloadAction<Omit<Round, 'at'>>) {
      state.round = { ...payload, order: [...payload.order], ghosts: [...payload.ghosts], at: 0 }
    },
    roundMoved(state, { payload: by }: PayloadAction<1 | -1>) {
      const { round } = state
      if (!round) return
      round.at = Math.max(0, Math.min(round.order.length, round.at + by))
    },
    roundEnded(state) {
      state.round = null
    },
  },
  selectors: { selectFit: (state) => state },
})

declare module '../store/store' {
  interface StepSlices extends WithSlice<typeof fitSlice> {}
}

const injected = fitSlice.injectInto(rootReducer)
export const fitActions = fitSlice.actions
export const { selectFit } = injected.selectors
