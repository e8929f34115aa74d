import { createSlice, type PayloadAction } from '@reduxjs/toolkit'
import type { Listening } from '@sober-prism/core/mix'
import { MIX, type StageName } from '@sober-prism/core/treatments'
import { initialPreferences, type Preferences } from './preferences'

export type StepName =
  | 'sessions'
  | 'gather'
  | 'survey'
  | 'clean'
  | 'fit'
  | 'shape'
  | 'check'
  | 'deliver'
/** How tracks are put in order on the screen; the session keeps its own order. */
export type TrackOrder = 'hand' | 'role' | 'lost'

/** A short message; `undo` offers to take the thing back. */
interface Notice {
  readonly id: number
  readonly text: string
  readonly kind: 'info' | 'warning'
  readonly undo: 'edit' | { readonly deletedSession: string } | null
}

export interface InterfaceState extends Preferences {
  /** The track, group or mix whose chain stands on the sheet. */
  readonly chosen: string
  /** Tracks and groups that are chosen besides, for what is done to several at once. */
  readonly alsoChosen: readonly string[]
  readonly treatmentId: string | null
  /** The chosen band of an equaliser. */
  readonly bandId: string | null
  /** Bands of the same equaliser that are chosen besides, for what is done to several at once. */
  readonly alsoBands: readonly string[]
  readonly stage: StageName
  readonly eyesClosed: boolean
  readonly listening: Listening
  readonly trackOrder: TrackOrder
  /** Only tracks whose name, letter or role holds this are shown. */
  readonly trackFilter: string
  /** Groups whose members are not shown; null until one is folded or unfolded by hand. */
  readonly folded: readonly string[] | null
  /** Whether the sheet stands under the strips of Survey; null for where there is room for it. */
  readonly surveySheet: boolean | null
  readonly commandsOpen: boolean
  readonly helpOpen: boolean
  readonly presetsOpen: boolean
  /** The finding that is looked at, by its key. */
  readonly finding: string | null
  readonly notice: Notice | null
}

const PLAIN: Listening = { position: 'stereo', dim: false }

const initialState: InterfaceState = {
  ...initialPreferences,
  chosen: MIX,
  alsoChosen: [],
  treatmentId: null,
  bandId: null,
  alsoBands: [],
  stage: 'fit',
  eyesClosed: false,
  listening: PLAIN,
  trackOrder: 'hand',
  trackFilter: '',
  folded: null,
  surveySheet: null,
  commandsOpen: false,
  helpOpen: false,
  presetsOpen: false,
  finding: null,
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
        state.alsoBands = []
        state.treatmentId = null
      }
      state.chosen = action.payload
      state.alsoChosen = []
    },
    /** Chooses a node besides the others, or no longer. */
    nodeChosenToo(state, { payload: node }: PayloadAction<string>) {
      if (node === state.chosen || node === MIX) return
      state.alsoChosen = state.alsoChosen.includes(node)
        ? state.alsoChosen.filter((n) => n !== node)
        : [...state.alsoChosen, node]
    },
    nodesChosen(state, { payload: [first, ...rest] }: PayloadAction<readonly string[]>) {
      if (first === undefined) return
      state.chosen = first
      state.alsoChosen = rest
      state.bandId = null
      state.alsoBands = []
      state.treatmentId = null
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
      state.alsoBands = []
    },
    bandChosen(state, action: PayloadAction<string | null>) {
      state.bandId = action.payload
      state.alsoBands = []
    },
    /** Chooses a band besides the others, or no longer. */
    bandChosenToo(state, { payload: band }: PayloadAction<string>) {
      if (state.bandId === null) state.bandId = band
      else if (band !== state.bandId) {
        state.alsoBands = state.alsoBands.includes(band)
          ? state.alsoBands.filter((id) => id !== band)
          : [...state.alsoBands, band]
      }
    },
    bandsChosen(state, { payload: [first, ...rest] }: PayloadAction<readonly string[]>) {
      state.bandId = first ?? null
      state.alsoBands = rest
    },
    stageChosen(state, action: PayloadAction<StageName>) {
      state.stage = action.payload
      state.treatmentId = null
      state.bandId = null
      state.alsoBands = []
    },
    sheetTurned(state) {
      state.sheet = state.sheet === 'light' ? 'night' : 'light'
    },
    surveySheetShown(state, { payload }: PayloadAction<boolean>) {
      state.surveySheet = payload
    },
    evidenceFolded(state) {
      state.evidenceOpen = !state.evidenceOpen
    },
    introClosed(state, { payload }: PayloadAction<StepName>) {
      state.introsClosed = [...new Set([...state.introsClosed, payload])]
    },
    plainKeysSwitched(state) {
      state.plainKeys = !state.plainKeys
    },
    introsOpened(state) {
      state.introsClosed = []
    },
    eyesSwitched(state) {
      state.eyesClosed = !state.eyesClosed
    },
    /** Listens from a position, or from the middle of the room again. */
    positionSwitched(state, { payload }: PayloadAction<Listening['position']>) {
      state.listening.position = state.listening.position === payload ? 'stereo' : payload
    },
    dimSwitched(state) {
      state.listening.dim = !state.listening.dim
    },
    /** Everything that is switched on for listening only is off again; solo and lift are the session's. */
    listeningCleared(state) {
      state.listening = PLAIN
      state.eyesClosed = false
    },
    tracksOrdered(state, { payload }: PayloadAction<TrackOrder>) {
      state.trackOrder = payload
    },
    tracksFiltered(state, { payload }: PayloadAction<string>) {
      state.trackFilter = payload
    },
    groupsFolded(state, { payload }: PayloadAction<readonly string[]>) {
      state.folded = [...payload]
    },
    commandsSwitched(state, { payload }: PayloadAction<boolean>) {
      state.commandsOpen = payload
    },
    presetsSwitched(state, { payload }: PayloadAction<boolean>) {
      state.presetsOpen = payload
    },
    helpSwitched(state, { payload }: PayloadAction<boolean>) {
      state.helpOpen = payload
    },
    findingOpened(state, { payload }: PayloadAction<string>) {
      state.finding = payload
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
