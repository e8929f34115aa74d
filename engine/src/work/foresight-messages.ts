import type { TrackChange } from '@sober-prism/core/findings'
import type { HearingSettings, MaskingTrack } from '@sober-prism/core/hearing'

/** What was measured of tracks, at their gains: what shares are foreseen from. */
export interface Surveyed {
  readonly tracks: readonly (MaskingTrack & { readonly id: string })[]
  readonly settings: HearingSettings & { readonly sampleRateHz: number }
}

export type ToForesight =
  | { readonly kind: 'start'; readonly pffft: ArrayBuffer }
  | { readonly kind: 'survey'; readonly surveyed: Surveyed }
  | { readonly kind: 'change'; readonly turn: number; readonly changes: readonly TrackChange[] }

/** By how much the share of each track changes. */
export interface FromForesight {
  readonly turn: number
  readonly shares: ReadonlyMap<string, number>
}
