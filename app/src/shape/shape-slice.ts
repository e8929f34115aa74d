import { createSlice, type PayloadAction, type WithSlice } from '@reduxjs/toolkit'
import {
  type CorrectionSettings,
  fewestBands,
  type MatchWays,
  type Profile,
  type SpectrumPair,
} from '@sober-prism/core/match'
import type { Chain } from '@sober-prism/core/session'
import { sessionActions } from '../store/session-slice'
import { rootReducer } from '../store/store'

/** A sound held against a target: both profiles, and the ways to bring one to the other. */
export interface Comparison {
  readonly node: string
  readonly target: string
  /** Null where published responses are compared and not sounds. */
  readonly from: Profile | null
  readonly to: Profile | null
  readonly pair: SpectrumPair
  readonly ways: MatchWays
  readonly settings: CorrectionSettings
  /** The node's chain when it was measured: with another one the comparison is of the past. */
  readonly chain: Chain
}

/** What can be done in Shape, in the order of use. */
export type SectionName =
  | 'match'
  | 'balance'
  | 'leveller'
  | 'voice-chain'
  | 'chains'
  | 'responses'
  | 'passage'
  | 'library'

interface ShapeState {
  /** The one that is open. */
  readonly section: SectionName | null

  readonly comparison: Comparison | null
  /** Number of bands are looked at. */
  readonly bands: number
}

const initialState: ShapeState = { section: 'match', comparison: null, bands: 0 }

const shapeSlice = createSlice({
  name: 'shape',
  initialState,
  reducers: {
    compared: (state, { payload }: PayloadAction<Comparison>): ShapeState => ({
      ...state,
      comparison: payload,
      bands: fewestBands(payload.ways.byBands),
    }),
    bandsCounted: (state, { payload: bands }: PayloadAction<number>): ShapeState => ({
      ...state,
      bands,
    }),
    closed: (state): ShapeState => ({ ...initialState, section: state.section }),
    sectionTurned: (state, { payload }: PayloadAction<SectionName>): ShapeState => ({
      ...state,
      section: state.section === payload ? null : payload,
    }),
  },
  // What was compared belongs to the session that was open.
  extraReducers: (builder) => void builder.addCase(sessionActions.opened, () => initialState),
  selectors: { selectShape: (state) => state },
})

declare module '../store/store' {
  interface StepSlices extends WithSlice<typeof shapeSlice> {}
}

const injected = shapeSlice.injectInto(rootReducer)
export const shapeActions = shapeSlice.actions
export const { selectShape } = injected.selectors
