import { createSlice, type PayloadAction, type WithSlice } from '@reduxjs/toolkit'
import { rootReducer } from '../store/store'

export const SURVEY_TABS = ['Findings', 'Masking', 'Plan'] as const
export type SurveyTab = (typeof SURVEY_TABS)[number]

interface SurveyState {
  readonly tab: SurveyTab
  /** The reference beside the mix; null for the first. */
  readonly referenceId: string | null
  /** Strips that are drawn as curves, by node. */
  readonly openStrips: readonly string[]
  /** Whether what was only measured is listed too. */
  readonly showMeasured: boolean
  /** How many moves of the plan are to be made; null for all. */
  readonly planCount: number | null
}

const initialState: SurveyState = {
  tab: 'Findings',
  referenceId: null,
  openStrips: [],
  showMeasured: false,
  planCount: null,
}

const surveySlice = createSlice({
  name: 'survey',
  initialState,
  reducers: {
    tabChosen(state, { payload }: PayloadAction<SurveyTab>) {
      state.tab = payload
    },
    referenceChosen(state, { payload }: PayloadAction<string>) {
      state.referenceId = payload
    },
    stripOpened(state, { payload }: PayloadAction<string>) {
      state.openStrips = state.openStrips.includes(payload)
        ? state.openStrips.filter((id) => id !== payload)
        : [...state.openStrips, payload]
    },
    measuredShown(state) {
      state.showMeasured = !state.showMeasured
    },
    planCounted(state, { payload }: PayloadAction<number>) {
      state.planCount = payload
    },
  },
  selectors: { selectSurvey: (state) => state },
})

declare module '../store/store' {
  interface StepSlices extends WithSlice<typeof surveySlice> {}
}

const injected = surveySlice.injectInto(rootReducer)
export const surveyActions = surveySlice.actions
export const { selectSurvey } = injected.selectors
