import type { Edit } from '../session'
import type { Measure } from '../treatments'

/** Kinds of finding. */
export const FINDING_KINDS = [
  'masking',
  'intelligibility',
  'pile-up',
  'resonance',
  'balance',
  'rumble',
  'harshness',
  'hum',
  'wide-low-end',
  'alignment',
] as const
export type FindingKind = (typeof FINDING_KINDS)[number]

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
      readonly target: string
      readonly masker: string
      /** Loudness of the target lost to the masker in this stretch, in sone. */
      readonly lostSone: number
      /** Share of the target's loudness in this stretch that is lost to all. */
      readonly lostShare: number
      readonly where: 'middle' | 'sides'
      /** Share of the passage in which it happens, 0 to 1. */
      readonly timeShare: number
      /** Other tracks that the move gives something back to. */
      readonly freed: readonly string[]
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
      readonly kind: 'intelligibility'
      /** Speech Intelligibility Index over the passage, and the least that is asked of such a voice. */
      readonly sii: number
      readonly least: number
      /** The stretch of a word's length in which it is lowest, and when that is, in seconds from the passage's start. */
      readonly lowest: number
      readonly lowestSeconds: number
    }
  | {
      readonly kind: 'resonance'
      readonly heightDb: number
      readonly q: number
      /** How likely it is a ring of room, microphone or filter, and does not belong to the instrument. */
      readonly likelihood: number
      /** How much slower it dies away than what lies beside it; null where that cannot be told. */
      readonly decayRatio: number | null
    }
  | {
      readonly kind: 'balance'
      readonly deviationDb: number
      readonly toleranceDb: number
      readonly target: 'slope' | 'references'
      /** The track that brings most of what is too strong, and its part of the power there; null where none does. */
      readonly mostly: { readonly track: string; readonly share: number } | null
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
      readonly kind: 'hum'
      readonly mainsHz: 50 | 60
      /** The harmonics that stand out, by number. */
      readonly harmonics: readonly number[]
      /** How far the clearest stands over what lies beside it in soft moments, in dB. */
      readonly heightDb: number
      /** Power of all of them, in dB against the whole track. */
      readonly levelDb: number
    }
  | {
      readonly kind: 'wide-low-end'
      readonly sideShare: number
      /** What the low end loses in the mono sum, in dB. */
      readonly monoLossDb: number
      readonly lowestCorrelation: number
      readonly highestCorrelation: number
    }
  | {
      readonly kind: 'alignment'
      /** By how much the second is late, and how its phase stands then. */
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
  /** Tracks it concerns, by id; empty for the mix. For masking: the masker, then the target. */
  readonly tracks: readonly string[]
  readonly hz: number
  readonly fromHz: number
  readonly toHz: number
  /** Audible harm in sone, or what is set equal to it; findings are ranked by it. */
  readonly severity: number
  readonly evidence: Evidence
  readonly times: readonly Times[]
  /** Whether it is told as something to act on, by a move or by ear; else it was only measured, and has no moves. */
  readonly offered: boolean
  /** What answers it: edits whose new bands and treatments get identities when they are made. */
  readonly moves: readonly Edit[]
  readonly predicted: Prediction | null
}

/** Findings of less harm than this, in sone, are not told. */
export const LEAST_SONE = 0.01
/** Findings under this harm, in sone, are small ones. */
export const SMALL_SONE = 0.45
