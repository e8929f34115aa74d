import { createSlice, type PayloadAction } from '@reduxjs/toolkit'
import type { StageName } from '@sober-prism/core/session'
import { type ChainOwner, MIX } from './session-slice'

export type SheetName = 'light' | 'night'

/** A short message; `undo` offers to take the thing back. */
export interface Notice {
  readonly id: number
  readonly text: string
  readonly kind: 'info' | 'warning'
  readonly undo: 'edit' | { readonly deletedSession: string } | null
}

interface InterfaceState {
  /** Whose chain stands on the equaliser sheet. */
  readonly chosen: ChainOwner
  readonly moveId: string | null
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
  moveId: null,
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
    ownerChosen(state, action: PayloadAction<ChainOwner>) {
      if (state.chosen !== action.payload) state.moveId = null
      state.chosen = action.payload
    },
    moveChosen(
      state,
      action: PayloadAction<{ owner?: ChainOwner; moveId: string | null; stage?: StageName }>,
    ) {
      const { owner, moveId, stage } = action.payload
      if (owner !== undefined) state.chosen = owner
      if (stage !== undefined) state.stage = stage
      state.moveId = moveId
    },
    stageChosen(state, action: PayloadAction<StageName>) {
      state.stage = action.payload
      state.moveId = null
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
