import type { CoveredRegion, MaskingFinding } from '@sober-prism/core/findings'
import type { Measured } from '../work/tasks'

/** How much of a track is heard beside the others, and where it is covered. */
export interface HeardTrack {
  /** Share of its loudness that survives in the mix, 0 to 1. */
  readonly share: number
  readonly aloneSone: number
  readonly inMixSone: number
  readonly covered: readonly CoveredRegion[]
}

/** A masking finding with tracks by their ids, and the key under which it can be dismissed. */
export interface SessionFinding extends Omit<MaskingFinding, 'lead' | 'masker'> {
  readonly key: string
  readonly leadId: string
  readonly maskerId: string
}

/** Everything that was measured of a session; maps are by track or reference id. */
export interface Analysis {
  /** Treated tracks before their faders, over the passage. */
  readonly tracks: ReadonlyMap<string, Measured>
  readonly references: ReadonlyMap<string, Measured>
  readonly mix: (Measured & { readonly truePeakDbtp: number | null }) | null
  readonly heard: ReadonlyMap<string, HeardTrack>
  readonly findings: readonly SessionFinding[] | null
  readonly overview: { readonly low: Float32Array; readonly high: Float32Array } | null
  /** Whether figures belong to the session as it stands now. */
  readonly fresh: boolean
  readonly work: { readonly what: string; readonly share: number } | null
  readonly problem: string | null
}

export const NOTHING_MEASURED: Analysis = {
  tracks: new Map(),
  references: new Map(),
  mix: null,
  heard: new Map(),
  findings: null,
  overview: null,
  fresh: false,
  work: null,
  problem: null,
}
