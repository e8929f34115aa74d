import type { EqBand, StageName } from '../session'

/** Kinds of finding. */
export const FINDING_KINDS = [
  'masking',
  'pile-up',
  'resonance',
  'balance',
  'rumble',
  'harshness',
  'wide-low-end',
  'alignment',
] as const
export type FindingKind = (typeof FINDING_KINDS)[number]

/** Whose chain: a track by its index, or the mix. */
export type Owner = number | 'mix'

/** One step that answers a finding: a band of an equaliser, or a shift in time with a polarity. */
export type ProposedMove =
  | {
      readonly kind: 'band'
      readonly owner: Owner
      readonly stage: StageName
      readonly band: EqBand
    }
  | {
      readonly kind: 'align'
      readonly owner: number
      /** Frames by which the track is moved later; negative for earlier. */
      readonly shiftFrames: number
      readonly invert: boolean
    }

/**
 * A figure that can be read again later, so that what a move was predicted to do can be set beside what it
 * did. Tracks are indices.
 */
export type Measure =
  /** Share of a track's loudness that survives in the mix, 0 to 1. */
  | { readonly of: 'heard'; readonly track: number }
  /** Level of a stretch of a track's spectrum, in dB against the level beside it or of the whole. */
  | {
      readonly of: 'level'
      readonly track: Owner
      readonly fromHz: number
      readonly toHz: number
      readonly against: 'beside' | 'whole'
    }
  /** Share of the power below a frequency that lies in the sides, 0 to 1. */
  | { readonly of: 'sides'; readonly track: number; readonly belowHz: number }
  /** Energy that two tracks lose in their sum, in dB; 0 when they add as if unrelated or better. */
  | { readonly of: 'cancelled'; readonly tracks: readonly [number, number] }

/** What a finding's moves are predicted to do, by the model on the treated signal. */
export interface Prediction {
  readonly measure: Measure
  readonly before: number
  readonly after: number
}

/** Seconds from the passage's start. */
export interface Times {
  readonly fromSeconds: number
  readonly toSeconds: number
}

/** Figures that a finding rests on, by kind; see the doc of each detector. */
export type Evidence =
  | {
      readonly kind: 'masking'
      readonly target: number
      readonly masker: number
      /** Loudness of the target lost to the masker in this stretch, in sone. */
      readonly lostSone: number
      /** Share of the target's loudness in this stretch that is lost to all. */
      readonly lostShare: number
      readonly where: 'middle' | 'sides'
      /** Share of the passage in which it happens, 0 to 1. */
      readonly timeShare: number
    }
  | {
      readonly kind: 'pile-up'
      /** How far the mix stands over its target there, in dB. */
      readonly excessDb: number
      /** Share of the power there that each of `tracks` brings, leads left out. */
      readonly shares: readonly number[]
      readonly lostSone: number
    }
  | {
      readonly kind: 'resonance'
      readonly heightDb: number
      readonly q: number
      readonly score: number
      readonly visits: number
      /** How much slower it dies away than what lies beside it; null where that cannot be told. */
      readonly decayRatio: number | null
    }
  | {
      readonly kind: 'balance'
      readonly deviationDb: number
      readonly toleranceDb: number
      readonly target: 'slope' | 'references'
    }
  | {
      readonly kind: 'rumble'
      readonly lowestHz: number
      /** Level below the lowest note, in dB against the whole track. */
      readonly levelDb: number
    }
  | {
      readonly kind: 'harshness'
      /** How far the strongest moments stand over the track's own usual balance, in dB. */
      readonly excessDb: number
      readonly timeShare: number
    }
  | {
      readonly kind: 'wide-low-end'
      readonly sideShare: number
      readonly lowestCorrelation: number
      readonly highestCorrelation: number
    }
  | {
      readonly kind: 'alignment'
      readonly delayFrames: number
      readonly turnDeg: number
      readonly coherence: number
      readonly lostDb: number
    }

/** One thing that stands in the way of clarity, with what it was found by and what would answer it. */
export interface Finding {
  /** The same for the same fault as long as sound and chain do not change its place. */
  readonly key: string
  readonly kind: FindingKind
  /** Tracks it concerns, by index; empty for the mix. For masking: the masker, then the target. */
  readonly tracks: readonly number[]
  readonly hz: number
  readonly fromHz: number
  readonly toHz: number
  /** Audible harm in sone, or what is set equal to it; findings are ranked by it. */
  readonly severity: number
  readonly evidence: Evidence
  readonly times: readonly Times[]
  readonly moves: readonly ProposedMove[]
  readonly predicted: Prediction | null
}

/** Findings of less harm than this, in sone, are not told. */
export const LEAST_SONE = 0.01
/** Findings under this harm, in sone, are small ones. */
export const SMALL_SONE = 0.45
