import { createSlice, type PayloadAction, type WithSlice } from '@reduxjs/toolkit'
import { WHOLE_RULER } from '../plot/ruler'
import { rootReducer } from '../store/store'

/**
 * What is drawn over time: a node before its chain, behind it, or both, what the chain takes in a second ink; or a
 * reference.
 */
export type SpectrogramSide = 'off' | 'recorded' | 'treated' | 'both' | 'reference'

/** What of the passage is looked at: shares of its length, and a range of frequency. */
export interface SpectrogramView {
  readonly from: number
  readonly to: number
  readonly lowHz: number
  readonly highHz: number
}

export const WHOLE_VIEW: SpectrogramView = { from: 0, to: 1, ...WHOLE_RULER }

interface SpectrogramState {
  readonly side: SpectrogramSide
  /** Which reference is drawn, or was last. */
  readonly reference: string | null
  /** Length of the window, in frames. */
  readonly size: 1024 | 4096 | 16384
  readonly rangeDb: 50 | 70 | 100
  readonly tilt: 0 | 3 | 4.5
  /** Shares of the passage that are looked at; the range of frequency is the ruler's. */
  readonly stretch: { readonly from: number; readonly to: number }
  /** The region that was drawn in it; null for none. */
  readonly region: SpectrogramView | null
}

/** What is drawn over time: of a reference that is gone, the node instead. */
export function drawnOverTime<T extends { readonly id: string }>(
  { side, reference }: SpectrogramState,
  references: readonly T[],
): { readonly side: SpectrogramSide; readonly reference: T | null } {
  if (side !== 'reference') return { side, reference: null }
  const found = references.find((r) => r.id === reference) ?? null
  return { side: found ? side : 'treated', reference: found }
}

/** A cut that was made by ear, and a resonance that was measured where the boost stood. */
export interface HuntedCut {
  readonly node: string
  readonly band: string
  readonly hz: number
  readonly ring: { readonly hz: number; readonly q: number; readonly db: number } | null
}

interface CleanState {
  /** Whether a boost follows the pointer over the sheet. */
  readonly hunting: boolean
  /** Whether it goes from high to low by itself. */
  readonly sweeping: boolean
  /** How narrow it is. */
  readonly q: number
  /** How deep the cut is that it is turned into, in dB. */
  readonly cutDb: number
  /** The cut that was made last, with the resonance that was measured beside it. */
  readonly made: HuntedCut | null
  readonly spectrogram: SpectrogramState
}

const initialState: CleanState = {
  hunting: false,
  sweeping: false,
  q: 14,
  cutDb: -6,
  made: null,
  spectrogram: {
    side: 'off',
    reference: null,
    size: 4096,
    rangeDb: 70,
    tilt: 3,
    stretch: { from: 0, to: 1 },
    region: null,
  },
}

/** Narrowest and widest boost of a hunt, as Q. */
export const HUNT_Q = [2, 40] as const
/** Deepest and shallowest cut: common practice goes no further than 15 dB. */
export const HUNT_CUT_DB = [-15, -1] as const

const cleanSlice = createSlice({
  name: 'clean',
  initialState,
  reducers: {
    huntSwitched(state, { payload }: PayloadAction<boolean>) {
      state.hunting = payload
      state.sweeping = false
      if (payload) state.made = null
    },
    sweepSwitched(state, { payload }: PayloadAction<boolean>) {
      state.sweeping = payload
      if (payload) state.hunting = true
    },
    spectrogramChanged(state, { payload }: PayloadAction<Partial<SpectrogramState>>) {
      Object.assign(state.spectrogram, payload)
    },
    depthChanged(state, { payload }: PayloadAction<number>) {
      state.cutDb = Math.max(HUNT_CUT_DB[0], Math.min(HUNT_CUT_DB[1], payload))
    },
    cutMade(state, { payload }: PayloadAction<HuntedCut | null>) {
      state.made = payload
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
