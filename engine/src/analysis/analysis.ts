import type { Balance, CoveredRegion, MixReading, Plan, Ring } from '@sober-prism/core/findings'
import type { Measured } from '../questions/levels'
import type { MeasuredTrack } from '../questions/track'
import type { Overview } from './overview'
import type { SessionFinding } from './session-finding'

/** How much of a track is heard beside the others, and where it is covered. */
export interface HeardTrack {
  /** Share of its loudness heard in the mix, 0 to 1. */
  readonly share: number
  readonly aloneSone: number
  readonly inMixSone: number
  /** Parts of its loudness that are under their masked threshold, that lose half and more, and that are heard well. */
  readonly hidden: number
  readonly crowded: number
  readonly clear: number
  readonly covered: readonly CoveredRegion[]
  /** Speech Intelligibility Index of a voice beside the others, 0 to 1; null for what is no voice. */
  readonly understood: number | null
}

/** What one track takes from another, in sone and as a share of the other's loudness. */
export interface Covering {
  readonly targetId: string
  readonly maskerId: string
  readonly lostSone: number
  readonly share: number
}

/** Everything that was measured of a session; maps are by track, group or reference id. */
export interface Analysis {
  /** Treated tracks, behind the chains of their groups and before their faders, over the passage. */
  readonly tracks: ReadonlyMap<string, MeasuredTrack>
  /** Fixed resonances of tracks, as their chains leave them; they are known last. */
  readonly rings: ReadonlyMap<string, readonly Ring[]>
  /** Groups behind their chains, before their faders. */
  readonly groups: ReadonlyMap<string, Measured>
  readonly references: ReadonlyMap<string, Measured>
  readonly mix: MixReading | null
  readonly heard: ReadonlyMap<string, HeardTrack>
  /** Masking, for all pairs. */
  readonly covering: readonly Covering[]
  /** The mix against the references or, without any, a slope. */
  readonly balance: Balance | null
  /** Findings that were not dismissed, worst first. */
  readonly findings: readonly SessionFinding[] | null
  /** How much each pair loses in its sum, in dB, by the two ids. */
  readonly cancelled: ReadonlyMap<string, number>
  /** The plan, when it was asked for and belongs to the session as it stands. */
  readonly plan: Plan | null
  /** Whether tracks were surveyed as folded to mono. */
  readonly mono: boolean
  readonly overview: Overview | null
  /** Whether figures belong to the session as it stands now. */
  readonly fresh: boolean
  /** Whether levels and loudness are foreseen, from what was measured of an earlier state. */
  readonly foreseen: boolean
  /** Whether shares heard are. */
  readonly sharesForeseen: boolean
  readonly work: { readonly what: string; readonly share: number } | null
  readonly problem: string | null
}

export const NOTHING_MEASURED: Analysis = {
  tracks: new Map(),
  rings: new Map(),
  groups: new Map(),
  references: new Map(),
  mix: null,
  heard: new Map(),
  covering: [],
  balance: null,
  findings: null,
  cancelled: new Map(),
  plan: null,
  mono: false,
  overview: null,
  fresh: false,
  foreseen: false,
  sharesForeseen: false,
  work: null,
  problem: null,
}
