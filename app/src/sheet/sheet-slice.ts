import { createSlice, type PayloadAction, type WithSlice } from '@reduxjs/toolkit'
import type { ProbeSettings } from '@sober-prism/engine'
import { rootReducer } from '../store/store'

/** What the sheet spans: so many dB up and down, what its marks need, or down to silence. */
export type SheetSpan = 'auto' | 3 | 6 | 12 | 24 | 'deep'
/** What live spectra are tilted by, in dB per octave. */
type Tilt = 0 | 3 | 4.5

/** What stands below the sheet, and of what it is read. */
export interface ReadingState {
  readonly kind: 'off' | 'phase' | 'delay' | 'impulse' | 'step' | 'sum' | 'gains' | 'low-end'
  readonly of: 'chain' | 'treatment' | 'band'
  /** Whether phase goes on beyond half a turn. */
  readonly unwrapped: boolean
  /** Whether the other phase modes stand beside the one that is set. */
  readonly modes: boolean
  /** The track whose sum with the chosen one is read. */
  readonly other: string | null
}

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
  readonly reading: ReadingState
  /** Whether the reading stands in front where it shares its place with something else. */
  readonly readingInFront: boolean
}

const initialState: SheetState = {
  span: 'auto',
  live: true,
  probe: { resolution: 'medium', speed: 'medium', show: 'average' },
  tilt: 0,
  hold: false,
  frozen: false,
  ghosts: [],
  reading: { kind: 'off', of: 'chain', unwrapped: false, modes: false, other: null },
  readingInFront: false,
}

const sheetSlice = createSlice({
  name: 'sheet',
  initialState,
  reducers: {
    viewChanged(
      state,
      {
        payload,
      }: PayloadAction<
        Partial<Omit<SheetState, 'probe' | 'ghosts' | 'reading' | 'readingInFront'>>
      >,
    ) {
      Object.assign(state, payload)
    },
    probeChanged(state, { payload }: PayloadAction<Partial<ProbeSettings>>) {
      Object.assign(state.probe, payload)
    },
    readingChanged(state, { payload }: PayloadAction<Partial<ReadingState>>) {
      Object.assign(state.reading, payload)
      // Who asks for a reading wants to see it.
      if (payload.kind !== undefined) state.readingInFront = payload.kind !== 'off'
    },
    readingTurned(state, { payload }: PayloadAction<boolean>) {
      state.readingInFront = payload
    },
    /** What stands behind every sheet; nothing for the first lead. */
    ghostsChosen(state, { payload }: PayloadAction<readonly string[]>) {
      state.ghosts = [...payload]
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
