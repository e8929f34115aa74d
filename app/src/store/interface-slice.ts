import { createSlice, type PayloadAction } from '@reduxjs/toolkit'
import { MIX, type StageName } from '@sober-prism/core/treatments'

export type SheetName = 'light' | 'night'

/** A short message; `undo` offers to take the thing back. */
interface Notice {
  readonly id: number
  readonly text: string
  readonly kind: 'info' | 'warning'
  readonly undo: 'edit' | { readonly deletedSession: string } | null
}

interface InterfaceState {
  /** The track, group or mix whose chain stands on the sheet. */
  readonly chosen: string
  readonly treatmentId: string | null
  /** The chosen band of an equaliser. */
  readonly bandId: string | null
  readonly stage: StageName
  readonly sheet: SheetName
  readonly eyesClosed: boolean
  readonly mono: boolean
  readonly notice: Notice | null
}

const SHEET_KEY = 'sober-prism.sheet'

function storedSheet(): SheetName {
  try {
    return localStorage.getItem(SHEET_KEY) === 'night' ? 'night' : 'light'
  } catch {
    return 'light'
  }
}

const initialState: InterfaceState = {
  chosen: MIX,
  treatmentId: null,
  bandId: null,
  stage: 'fit',
  sheet: storedSheet(),
  eyesClosed: false,
  mono: false,
  notice: null,
}

let notices = 0

const slice = createSlice({
  name: 'interface',
  initialState,
  reducers: {
    nodeChosen(state, action: PayloadAction<string>) {
      if (state.chosen !== action.payload) {
        state.bandId = null
        state.treatmentId = null
      }
      state.chosen = action.payload
    },
    treatmentChosen(
      state,
      action: PayloadAction<{
        node?: string
        treatmentId: string | null
        bandId?: string | null
        stage?: StageName
      }>,
    ) {
      const { node, treatmentId, bandId = null, stage } = action.payload
      if (node !== undefined) state.chosen = node
      if (stage !== undefined) state.stage = stage
      state.treatmentId = treatmentId
      state.bandId = bandId
    },
    bandChosen(state, action: PayloadAction<string | null>) {
      state.bandId = action.payload
    },
    stageChosen(state, action: PayloadAction<StageName>) {
      state.stage = action.payload
      state.treatmentId = null
      state.bandId = null
    },
    sheetTurned(state) {
      state.sheet = state.sheet === 'light' ? 'night' : 'light'
      try {
        localStorage.setItem(SHEET_KEY, state.sheet)
      } catch {
        // Only a preference; without storage it lasts until the page closes.
      }
    },
    eyesSwitched(state) {
      state.eyesClosed = !state.eyesClosed
    },
    monoSwitched(state) {
      state.mono = !state.mono
    },
    noticeShown: {
      reducer(state, action: PayloadAction<Notice>) {
        state.notice = action.payload
      },
      prepare: (text: string, kind: Notice['kind'] = 'info', undo: Notice['undo'] = null) => ({
        payload: { id: ++notices, text, kind, undo },
      }),
    },
    noticeClosed(state) {
      state.notice = null
    },
  },
})

export const interfaceActions = slice.actions
export const interfaceReducer = slice.reducer
